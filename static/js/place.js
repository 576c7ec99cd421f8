/* Where somebody was on a page that comes anew after a press: it stands there still, what was unfolded to be read is
   unfolded still, the next Tab goes on from there, and what was done is said in view. */
"use strict";
(() => {
  const KEPT = "pressed at";
  const SEEN = 12000;
  let pressed = null;

  /* What unfolds on a page, each by its words (a figure in them may be another by now), and which of those it is. */
  const folds = () => {
    const seen = {};
    return [...document.querySelectorAll("main details")].map((fold) => {
      const words = fold.querySelector("summary")?.textContent.replace(/[\d\s.,]+/g, " ") || "";
      seen[words] = (seen[words] || 0) + 1;
      return { fold, name: `${seen[words]} ${words}` };
    });
  };
  /* What was pressed in it is done, and folds away. */
  const unfolded = () =>
    folds()
      .filter(({ fold }) => fold.open && !fold.contains(pressed))
      .map(({ name }) => name);

  const top = (element) => element.getBoundingClientRect().top;
  document.addEventListener("submit", ({ target }) => {
    if (target.method === "post" && !target.hasAttribute("hx-post")) pressed = target;
  });
  addEventListener("pagehide", () => {
    if (!pressed) return;
    const { pathname: path, search } = location;
    const where = { path, search, action: pressed.action, top: top(pressed), scrolled: scrollY, unfolded: unfolded() };
    sessionStorage.setItem(KEPT, JSON.stringify(where));
  });
  const was = JSON.parse(sessionStorage.getItem(KEPT) || "null");
  sessionStorage.removeItem(KEPT);
  if (was?.path === location.pathname)
    for (const { fold, name } of folds()) if (was.unfolded?.includes(name)) fold.open = true;

  /* The form itself is stood at, not its button: who presses twice in a hurry presses nothing the second time, and the
     keys of the page go on working. One that is folded away again is stood at where it unfolds. */
  const standAt = () => {
    const forms = [...document.querySelectorAll("main form")];
    const same = forms.filter((form) => form.action === was.action);
    const off = (place) => Math.abs(top(place) - was.top);
    const places = (same.length ? same : forms)
      .map((form) => (form.checkVisibility() ? form : form.closest("details:not([open])")))
      .filter((place) => place?.checkVisibility());
    const [nearest] = places.sort((one, other) => off(one) - off(other));
    if (!nearest) return;
    nearest.tabIndex = -1;
    nearest.focus({ preventScroll: true });
  };
  const sayInView = () => {
    const said = document.querySelector("[data-said]");
    if (!said || said.getBoundingClientRect().bottom > 0) return;
    const settle = () => said.classList.remove("said--afloat");
    said.classList.add("said--afloat");
    said.addEventListener("click", settle);
    setTimeout(settle, SEEN);
  };

  /* Once the browser has gone back to where the page stood. */
  addEventListener("load", () =>
    setTimeout(() => {
      if (document.querySelector("[data-refused]")) return;
      if (was?.path === location.pathname) {
        if (was.search !== location.search && !location.hash) scrollTo(0, was.scrolled);
        if (document.activeElement === document.body) standAt();
      }
      sayInView();
    }),
  );
})();
