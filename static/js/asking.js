/* What a page asks in passing: whether a reading is within limits, what a bid would earn. Until the answer is there,
   what stands in its place is from before; if none comes that is said there, and it is asked again. */
"use strict";
(() => {
  const AGAIN = 5000;
  const unanswered = new Map(); // by what asked: where its answer would stand, and when it is asked again

  const reason = (status) => {
    if (!status) return "no connection";
    if (status === 401) return "you have been signed out";
    if (status === 404) return "it is no longer there";
    return status < 500 ? `the server refused it (${status})` : `the server broke or is starting again (${status})`;
  };
  const asking = (event) => (event.detail.requestConfig?.verb === "get" ? event.detail.elt : null);
  const settle = (element) => {
    const { place, timer } = unanswered.get(element);
    unanswered.delete(element);
    clearTimeout(timer);
    place.classList.remove("is-from-before");
    place.querySelector("[data-unanswered]")?.remove();
  };
  /* A form that asked anew, or another field with the same answer: one place says it once. */
  const settleAt = (place) =>
    [...unanswered].filter(([, at]) => at.place === place).forEach(([element]) => settle(element));

  const worded = (words, at) => Object.assign(document.createElement(at === 1 ? "b" : "span"), { textContent: words });
  const say = (element, place, status, door) => {
    settleAt(place);
    const ofBefore = place.textContent.trim() !== "";
    const line = Object.assign(document.createElement("p"), { className: "unanswered" });
    line.dataset.unanswered = "";
    line.setAttribute("role", "status");
    line.append(...["Not answered: ", reason(status), ofBefore ? ". This is from before." : "."].map(worded));
    if (door) {
      const button = Object.assign(document.createElement("button"), {
        type: "button",
        className: "btn btn-line",
        textContent: "Sign in",
      });
      button.addEventListener("click", () =>
        element.dispatchEvent(new CustomEvent("signed-out", { bubbles: true, detail: door })),
      );
      line.append(" ", button);
    }
    place.classList.toggle("is-from-before", ofBefore);
    place.prepend(line);
    const worthwhile = !status || status >= 500; // what was refused would be refused again
    const timer = worthwhile && setTimeout(() => askAgain(element), AGAIN);
    unanswered.set(element, { place, timer });
  };
  const askAgain = (element) => {
    if (!unanswered.has(element)) return;
    if (element.isConnected) htmx.ajax("GET", element.getAttribute("hx-get"), { source: element }).catch(() => {});
    else settle(element);
  };
  window.addEventListener("online", () => [...unanswered.keys()].forEach(askAgain));

  const failed = (event, status) => {
    const element = asking(event);
    if (element?.isConnected)
      say(element, event.detail.target, status, event.detail.xhr.getResponseHeader("X-Sign-In"));
  };
  /* What loads by itself had no answer yet. */
  document.addEventListener("htmx:beforeRequest", (event) => {
    if (asking(event) && event.detail.requestConfig.triggeringEvent) event.detail.target.classList.add("is-asked");
  });
  document.addEventListener("htmx:afterRequest", (event) => {
    if (!asking(event)) return;
    event.detail.target.classList.remove("is-asked");
    if (event.detail.successful) settleAt(event.detail.target);
  });
  document.addEventListener("htmx:sendError", (event) => failed(event, 0));
  document.addEventListener("htmx:timeout", (event) => failed(event, 0));
  document.addEventListener("htmx:responseError", (event) => failed(event, event.detail.xhr.status));
})();
