/* The run screen: pass goes at once, fail and skip ask why first. Keys are handled in shell.js. */
"use strict";
(() => {
  const form = document.getElementById("step-form");
  if (!form) return;
  const why = document.getElementById("why");
  const reason = form.elements.reason;
  form.addEventListener("click", (event) => {
    const button = event.target.closest("button[data-asks]");
    if (!button || reason.value.trim()) return;
    event.preventDefault();
    why.hidden = false;
    /* What keeps one from doing a step is no reason why it failed. */
    document.getElementById("why-not").hidden = button.value === "fail";
    why.querySelector("label").textContent = button.dataset.asks;
    why.dataset.outcome = button.value;
    document.getElementById("why-go").value = button.value;
    document.getElementById("why-go").textContent = button.dataset.verb;
    reason.focus();
  });
  reason.addEventListener("keydown", (event) => {
    if (event.key === "Enter") {
      event.preventDefault();
      document.getElementById("why-go").click();
    }
    if (event.key === "Escape") {
      why.hidden = true;
      form.querySelector("[data-key=p]")?.focus();
    }
  });
  form.querySelectorAll("[data-say]").forEach((b) =>
    b.addEventListener("click", () => {
      reason.value = b.dataset.say;
      reason.focus();
    }),
  );
  /* The reading may be put anew by an instrument, so its keys are heard at the form. */
  form.addEventListener("keydown", (event) => {
    if (event.target.id !== "reading") return;
    if (event.key === "Enter" && event.target.tagName === "INPUT") {
      event.preventDefault();
      form.querySelector("[data-key=p]").click();
    }
    if (event.key === "Escape") event.target.blur();
  });
  const reading = form.elements.reading;
  if (reading && !document.querySelector(".is-wrong")) reading.focus();
})();
