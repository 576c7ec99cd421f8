/* The lines of a lot: add one, and ask for the landed cost while one types. */
"use strict";
(() => {
  const body = document.getElementById("lines");
  const blank = document.getElementById("blank-line");
  const total = document.getElementById("id_lines-TOTAL_FORMS");
  document.getElementById("add-line")?.addEventListener("click", () => {
    const number = Number(total.value);
    const holder = document.createElement("template");
    holder.innerHTML = blank.innerHTML.replaceAll("__prefix__", number);
    body.append(holder.content);
    total.value = number + 1;
    document.getElementById(`id_lines-${number}-description`)?.focus();
  });
})();
