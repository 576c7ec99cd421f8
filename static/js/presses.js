/* What presses: a person, and once. Not a key that is held down, not the second half of a double click that falls on the
   next page, and not a scanner, which types its code wherever the page stands. */
"use strict";
(() => {
  /* Nothing is typed into a choice, so keys go on working there. */
  const typing = (target) =>
    target.closest("input:not([type=radio], [type=checkbox]), select, textarea, [contenteditable]") !== null;
  const byKey = (key) => document.querySelector(`[data-key="${CSS.escape(key.toLowerCase())}"]`);
  const STATIONS = { b: "buying", i: "intake", t: "bench", w: "workshop", s: "selling", k: "books" };
  let going = false;

  const press = (key) => {
    if (document.querySelector("dialog[open]")) return; // the page lies under something
    if (key === "?") {
      window.location = "/keys/";
      return;
    }
    if (going) {
      going = false;
      if (key === "f") {
        window.location = "/";
        return;
      }
      const stop = document.querySelector(`[data-go="${STATIONS[key]}"]`);
      if (stop) {
        window.location = stop.href;
        return;
      }
    }
    if (key === "g") {
      going = true;
      setTimeout(() => {
        going = false;
      }, 1500);
      return;
    }
    const pressed = byKey(key);
    if (!pressed) return;
    pressed.focus();
    pressed.click();
    /* What a key unfolds is typed into at once: its letters are no keys. */
    const more = pressed.closest("summary")?.parentElement;
    if (more?.open) more.querySelector("input:not([type=hidden]), textarea, select")?.focus();
  };

  /* Letters that come faster than fingers are a code: none of them is a key. It goes where the page asks for a code, or
     to the scan box, whether or not the scanner closes with Enter. */
  const FAST = 50; // ms from one to the next; common practice, no source
  const CODE = 4; // letters, of a code that no Enter closes
  let typed = "",
    lastAt = 0,
    settling = null;
  const taken = () => {
    const letters = typed;
    typed = "";
    clearTimeout(settling);
    return letters;
  };
  window.scanned = {
    field: () => document.querySelector("[data-scan]") ?? document.getElementById("scan"),
    send(code) {
      const field = window.scanned.field();
      field.value = code;
      field.form.requestSubmit();
    },
  };
  const settle = () => {
    const letters = taken();
    if (letters.length >= CODE) window.scanned.send(letters);
    else [...letters].forEach(press);
  };

  document.addEventListener("keydown", (event) => {
    const { key, target } = event;
    if (event.ctrlKey || event.altKey || event.metaKey || event.defaultPrevented) return;
    if (key === "Escape" && target.id === "scan") target.blur();
    const scan = document.getElementById("scan");
    if (!scan || typing(target)) return;
    /* How fast they came is told by when they were pressed: a busy tablet hears letters of a finger all at once. */
    if (typed && event.timeStamp - lastAt > FAST) {
      settle();
      if (typing(document.activeElement)) return; // what the key before unfolded is typed into
    }
    if (["Enter", "Tab"].includes(key)) {
      if (!typed) return;
      event.preventDefault();
      if (typed.length > 1) window.scanned.send(taken());
      return;
    }
    if (key.length > 1) return;
    if (!typed) {
      if (key === "/") {
        event.preventDefault();
        scan.focus();
        return;
      }
      if (key === " ") {
        /* Space on something that Space presses is for that, not for the page's own key. */
        if (target.closest("a, button, summary, input") || !byKey(key)) return;
        event.preventDefault();
        press(key);
        return;
      }
    }
    event.preventDefault();
    typed += key;
    lastAt = event.timeStamp;
    clearTimeout(settling);
    settling = setTimeout(settle, FAST);
  });

  addEventListener(
    "keydown",
    (event) => {
      const { key, target } = event;
      if (!event.repeat || target.closest("textarea, [contenteditable]")) return;
      if (key !== "Enter" && (typing(target) || key.length > 1 || !byKey(key))) return;
      event.preventDefault();
      event.stopImmediatePropagation();
    },
    true,
  );

  let isPressedHere = false;
  addEventListener(
    "click",
    (event) => {
      if (event.detail === 1) isPressedHere = true;
      if (event.detail < 2 || isPressedHere) return;
      event.preventDefault();
      event.stopImmediatePropagation();
      if (window.topBar?.bar.hidden)
        window.topBar.say("Pressed twice, taken once.", "going", ["All right", window.topBar.quiet]);
    },
    true,
  );
})();
