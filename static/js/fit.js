/* A rule and its place in the drawing mark each other, on focus and under the pointer. */
"use strict";
(() => {
  const light = (event, on) => {
    const at = event.target.closest?.("[data-at]")?.dataset.at;
    if (!at) return;
    for (const one of document.querySelectorAll(`[data-at="${CSS.escape(at)}"]`)) one.classList.toggle("is-lit", on);
  };
  for (const [name, on] of [
    ["focusin", true],
    ["focusout", false],
    ["mouseover", true],
    ["mouseout", false],
  ]) {
    document.addEventListener(name, (event) => light(event, on));
  }
})();
