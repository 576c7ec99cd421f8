/* What a page fetches once it stands has from the first the room that it took the last time: what lies below it does not
   move from under a finger that is on its way. Not deferred: as a rule it is there before anything is painted, and where
   it is not, nothing waits for it. */
"use strict";
(() => {
  const ROOMS = "room of what comes late"; // px, by width and address
  const MOST = 200; // that are kept in mind, those looked at last
  const GAP = 120; // px that may stay empty; what leaves more is closed up
  const LATE = "main [hx-trigger='load']";
  const rooms = new Map(JSON.parse(localStorage.getItem(ROOMS) || "[]"));
  /* One that was never looked at is taken to be like the last of its kind. */
  const names = (late) => {
    const [wide, address] = [document.documentElement.clientWidth, late.getAttribute("hx-get")];
    return [`${wide} ${address}`, `${wide} ${address.replace(/\d+/g, "#")}`];
  };

  const hold = (late) => {
    const known = names(late).find((name) => rooms.has(name));
    if (known) late.style.minHeight = `${rooms.get(known)}px`;
  };
  const parsed = new MutationObserver((found) => {
    for (const { addedNodes } of found) for (const node of addedNodes) if (node.matches?.(LATE)) hold(node);
  });
  document.querySelectorAll(LATE).forEach(hold);
  if (document.readyState === "loading") parsed.observe(document, { childList: true, subtree: true });
  document.addEventListener("DOMContentLoaded", () => parsed.disconnect());

  document.addEventListener("htmx:afterSettle", ({ target: late }) => {
    if (!late.matches(LATE)) return;
    const held = late.offsetHeight;
    late.style.minHeight = "";
    const takes = late.offsetHeight;
    if (takes && held - takes <= GAP) late.style.minHeight = `${held}px`;
    for (const name of names(late)) {
      rooms.delete(name);
      rooms.set(name, takes);
    }
    localStorage.setItem(ROOMS, JSON.stringify([...rooms].slice(-MOST)));
  });
})();
