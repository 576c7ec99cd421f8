/* In the section through a machine the arrows walk from slab to slab, along the way first. */
"use strict";
(() => {
  const forward = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 };
  document.addEventListener("keydown", (event) => {
    const slab = event.target.closest("a.slab");
    const by = forward[event.key];
    if (!slab || !by) return;
    event.preventDefault();
    const step = (one) => Number(one.dataset.step) || Infinity;
    const all = [...slab.closest("svg").querySelectorAll("a.slab")].sort((one, other) => step(one) - step(other) || 0);
    all[(all.indexOf(slab) + by + all.length) % all.length].focus();
  });
})();
