/* The running clocks, and what is looked at first. */
"use strict";
(() => {
  /* What time it is goes by the server: the clock of a tablet may show anything, and what is waited for is not over
     sooner for that. A page that is shown again as it was kept says when it was made, not what time it is. */
  const AHEAD = "ahead of the server";
  const isShownAgain =
    performance.getEntriesByType("navigation")[0]?.type === "back_forward" || "kept" in document.body.dataset;
  const madeAt = Date.parse(document.body.dataset.now);
  if (madeAt && !isShownAgain) sessionStorage.setItem(AHEAD, Date.now() - madeAt);
  window.serverTime = (moment) => moment - Number(sessionStorage.getItem(AHEAD));
  const now = () => window.serverTime(Date.now());

  const clock = document.querySelector("[data-since]");
  if (clock) {
    const since = new Date(clock.dataset.since);
    const show = () => {
      const minutes = Math.max(0, Math.floor((now() - since) / 60000));
      clock.querySelector("b").textContent =
        `${String(Math.floor(minutes / 60)).padStart(2, "0")}:${String(minutes % 60).padStart(2, "0")}`;
    };
    show();
    setInterval(show, 10000);
  }

  /* Timers go on by themselves; the page only shows what is left. */
  const left = () =>
    document.querySelectorAll("[data-until]").forEach((place) => {
      const minutes = Math.ceil((new Date(place.dataset.until) - now()) / 60000);
      place.textContent =
        minutes <= 0
          ? "over"
          : minutes >= 60
            ? `${Math.floor(minutes / 60)} h ${String(minutes % 60).padStart(2, "0")}`
            : `${minutes} min`;
    });
  left();
  setInterval(left, 10000);

  /* In a hurry: the first thing it can have been is under the finger as soon as it opens. */
  const stop = document.querySelector("[data-stop]");
  if (stop)
    stop.addEventListener("toggle", () => {
      if (stop.open) stop.querySelector("button").focus();
    });

  /* What was typed before the page could hear it counts as typed now. */
  document.addEventListener("htmx:load", ({ target }) => {
    for (const field of target.querySelectorAll("[hx-trigger*=early], [hx-trigger*=early] :is(input, textarea)"))
      if ("defaultValue" in field && field.value !== field.defaultValue)
        field.dispatchEvent(new Event("early", { bubbles: true }));
  });

  const wrong = document.querySelector(".is-wrong input, .is-wrong select, .is-wrong textarea");
  const typesOn = () => document.querySelector("[data-typing]");
  if (wrong && !typesOn()) wrong.focus();
  /* Why something was not done is seen at once, wherever on a long page the button was; once the browser has gone back
     to where the page stood. Nobody is taken away from what they type, or what is wrong: that is kept in sight, when
     looks that came late have moved it. */
  const refused = document.querySelector("[data-refused]");
  const stayAt = () => typesOn() ?? (wrong && document.activeElement === wrong ? wrong : null);
  addEventListener("load", () =>
    setTimeout(() => {
      const field = stayAt();
      if (field) field.scrollIntoView({ block: "nearest" });
      else refused?.scrollIntoView({ block: "center" });
    }),
  );
  /* Of a row of pages that is wider than a phone, the one that is shown is seen. */
  const pages = document.querySelector(".unit-nav");
  const shown = pages?.querySelector("[aria-current]");
  if (shown) pages.scrollLeft = shown.offsetLeft - pages.offsetLeft - (pages.clientWidth - shown.offsetWidth) / 2;

  document
    .querySelectorAll("form[data-submits] select")
    .forEach((s) => s.addEventListener("change", () => s.form.requestSubmit()));
  document.querySelectorAll("[data-whole]").forEach((i) => i.addEventListener("focus", () => i.select()));
  document.querySelectorAll("[data-print]").forEach((b) => b.addEventListener("click", () => window.print()));
})();
