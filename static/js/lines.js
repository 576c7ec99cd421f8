/* Rows of a form that can be added: the lines and charges of a lot. A blank one stands in a template beside them. */
"use strict";
(() => {
  document.querySelectorAll("[data-add]").forEach((button) =>
    button.addEventListener("click", () => {
      const rows = button.dataset.add,
        total = document.getElementById(`id_${rows}-TOTAL_FORMS`),
        number = Number(total.value);
      const holder = document.createElement("template");
      holder.innerHTML = document.getElementById(`blank-${rows}`).innerHTML.replaceAll("__prefix__", number);
      document.getElementById(rows).append(holder.content);
      total.value = number + 1;
      document.getElementById(`id_${rows}-${number}-${button.dataset.focus}`)?.focus();
    }),
  );
})();
