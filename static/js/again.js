/* A page that is shown again, by Back or by a tablet that wakes, or goes on being shown, on a screen on the wall: how
   things are, and what was typed there. */
"use strict";
(() => {
  const { who, now } = document.body.dataset;
  if (!who || !window.topBar) return;
  /* Whoever leaves a page by mistake comes back to what was typed there. What is saved, or waits at the door, is not put
     back a second time. */
  const LEFT = `left at ${location.pathname + location.search}`;
  addEventListener("pagehide", () => {
    const typed = window.typed.left();
    if (typed.length) sessionStorage.setItem(LEFT, JSON.stringify({ who, typed }));
  });
  const left = JSON.parse(sessionStorage.getItem(LEFT) || "null");
  sessionStorage.removeItem(LEFT);
  const came = performance.getEntriesByType("navigation")[0]?.type;
  if (left?.who === who && ["back_forward", "reload"].includes(came)) left.typed.forEach(window.typed.putOn);

  /* Shown again by Back, a page tells how it was when it was made: it comes anew. One that a tablet wakes with may be
     at work: of that it is only said. */
  const OLD = 10 * 60 * 1000;
  const madeAt = Date.parse(now);
  const isKept = "kept" in document.body.dataset;
  const sayHowOld = () =>
    window.topBar.say(
      `${isKept ? "No connection: this" : "This"} page shows how it was ${onWhichDay(madeAt)}at ${now.slice(11, 16)}.`,
      "going",
      ["Load it anew", () => location.reload()],
      ["Leave it", window.topBar.quiet],
    );
  const onWhichDay = (moment) => {
    const day = new Date(moment);
    return day.toDateString() === new Date().toDateString()
      ? ""
      : `on ${day.toLocaleDateString("en-GB", { day: "numeric", month: "long" })} `;
  };
  addEventListener("pageshow", ({ persisted }) => {
    if (isKept) document.getElementById("not-here") || sayHowOld();
    else if (persisted || window.serverTime(Date.now() - performance.now()) >= madeAt) location.reload();
  });
  const isAtRest = () => !document.hidden && window.topBar.bar.hidden;
  document.addEventListener("visibilitychange", () => {
    if (isAtRest() && window.serverTime(Date.now()) - madeAt > OLD) sayHowOld();
  });

  /* What hangs on the wall comes anew by itself. Not under somebody's eyes: only where nobody has touched it for that
     long, and while the shop answers. */
  const FRESH = 2 * 60 * 1000;
  if (!document.querySelector("[data-board]")) return;
  let touched = 0;
  for (const touch of ["pointermove", "pointerdown", "keydown", "scroll"])
    addEventListener(touch, () => (touched = Date.now()), { passive: true });
  setInterval(async () => {
    if (!isAtRest() || Date.now() - touched < FRESH || window.typed.left().length) return;
    const answer = await fetch(location.href).catch(() => null);
    if (answer?.ok && !answer.redirected) location.reload();
    else sayHowOld();
  }, FRESH);
})();
