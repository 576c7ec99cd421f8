/* What calls for somebody is told by the browser too, once, where that is allowed. */
"use strict";
(() => {
  const KEY = "wendopolis-bells";
  const told = () => new Set(JSON.parse(localStorage.getItem(KEY) || "[]"));
  const tell = () => {
    if (!("Notification" in window) || Notification.permission !== "granted") return;
    const before = told();
    document.querySelectorAll("[data-bell]").forEach((bell) => {
      if (before.has(bell.dataset.bell)) return;
      before.add(bell.dataset.bell);
      new Notification("Wendopolis", { body: bell.textContent.replace(/\s+/g, " ").trim(), tag: bell.dataset.bell });
    });
    localStorage.setItem(KEY, JSON.stringify([...before].slice(-200)));
  };
  document.addEventListener("htmx:afterSettle", tell);
  /* Who is reading them is not interrupted. */
  document.addEventListener("htmx:beforeSwap", ({ detail }) => {
    if (detail.target.id === "bells" && detail.target.querySelector("details[open], :focus")) detail.shouldSwap = false;
  });
  document.querySelectorAll("[data-allow-bells]").forEach((button) => {
    if (!("Notification" in window) || Notification.permission !== "default") {
      button.hidden = true;
      return;
    }
    button.addEventListener("click", () => Notification.requestPermission().then(() => location.reload()));
  });
})();
