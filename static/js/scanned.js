/* Labels are scanned faster than they are saved: the field is free for the next at once, and what comes meanwhile waits
   in this tab. It is sent once the page is back; after one that was refused, when somebody has seen why. */
"use strict";
(() => {
  const KEPT = "scanned meanwhile";
  const field = document.querySelector("[data-scan]");
  const form = field?.form;
  if (!form?.elements.write_key) return;
  const here = location.pathname + location.search;
  const { at, codes } = JSON.parse(sessionStorage.getItem(KEPT) || '{"codes": []}');
  const waiting = at === here ? codes : [];
  const keep = () => {
    if (waiting.length) sessionStorage.setItem(KEPT, JSON.stringify({ at: here, codes: waiting }));
    else sessionStorage.removeItem(KEPT);
  };

  /* What is on its way, and sent again where no answer came, is not what is typed next. */
  const sent = Object.assign(document.createElement("input"), { type: "hidden", name: field.name });
  field.removeAttribute("name");
  form.append(sent);
  document.addEventListener(
    "submit",
    (event) => {
      if (event.target !== form) return;
      const code = field.value.trim();
      field.value = "";
      if (!sent.value) {
        sent.value = code;
        return;
      }
      waiting.push(code);
      keep();
      if (!form.dataset.saving) return; // no answer came to the one before: it is sent again
      event.preventDefault();
      event.stopImmediatePropagation();
    },
    true,
  );

  const goOn = () => {
    field.value = waiting.shift();
    keep();
    form.requestSubmit();
  };
  const leave = () => {
    waiting.length = 0;
    keep();
    window.topBar.quiet();
  };
  keep();
  if (!waiting.length) return;
  if (!document.querySelector("[data-refused]")) {
    goOn();
    return;
  }
  const words = `Scanned after it and not saved yet: ${waiting.join(", ")}.`;
  window.topBar.say(words, "failed", ["Go on with them", goOn], ["Leave them", leave]);
})();
