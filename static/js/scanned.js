/* Labels are scanned faster than they are saved: what comes meanwhile waits in this tab, and is sent once the page is
   back; after one that was refused, when somebody has seen why. */
"use strict";
(() => {
  const KEPT = "scanned meanwhile";
  const field = document.querySelector("[data-scan]");
  if (!field?.form.elements.write_key) return;
  const here = location.pathname + location.search;
  const { at, codes } = JSON.parse(sessionStorage.getItem(KEPT) || '{"codes": []}');
  const waiting = at === here ? codes : [];
  const keep = () => {
    if (waiting.length) sessionStorage.setItem(KEPT, JSON.stringify({ at: here, codes: waiting }));
    else sessionStorage.removeItem(KEPT);
  };

  document.addEventListener(
    "submit",
    (event) => {
      if (event.target !== field.form || !field.form.dataset.saving) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      if (field.value.trim()) waiting.push(field.value.trim());
      field.value = "";
      keep();
    },
    true,
  );

  const goOn = () => {
    field.value = waiting.shift();
    keep();
    field.form.requestSubmit();
  };
  const leave = () => {
    waiting.length = 0;
    keep();
    window.topBar.quiet();
  };
  keep();
  if (!waiting.length) return;
  if (!document.querySelector("[data-refused]")) goOn();
  else {
    const words = `Scanned after it and not saved yet: ${waiting.join(", ")}.`;
    window.topBar.say(words, "failed", ["Go on with them", goOn], ["Leave them", leave]);
  }
})();
