/* Placing findings: press a face, or its letter, to say where; then a kind. Pins are dragged, or moved by arrow keys. */
"use strict";
(() => {
  /* Two drawings stand on the page, one for a desk and one for a phone; only one is shown. */
  const map = [...document.querySelectorAll(".casing")].find((drawing) => drawing.getClientRects().length);
  const quick = document.getElementById("quick-form"),
    form = document.getElementById("finding-form");
  if (!map || !quick) return;
  const more = document.getElementById("finding-more");
  const at = (event) => {
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(map.getScreenCTM().inverse());
    for (const face of map.querySelectorAll("[data-face]")) {
      const box = face.getBBox();
      const x = (point.x - box.x) / box.width,
        y = (point.y - box.y) / box.height;
      if (x >= 0 && x <= 1 && y >= 0 && y <= 1) return { face, x, y, box };
    }
    return null;
  };
  let cross = null;
  const show = (face, x, y) => {
    for (const part of [quick, form]) {
      part.elements.face.value = face.dataset.face;
      part.elements.x.value = x.toFixed(3);
      part.elements.y.value = y.toFixed(3);
    }
    const box = face.getBBox();
    if (!cross) {
      cross = document.createElementNS("http://www.w3.org/2000/svg", "path");
      cross.setAttribute("class", "cross");
      cross.setAttribute("d", "M-12 0h24M0-12v24");
      map.append(cross);
    }
    cross.setAttribute("transform", `translate(${box.x + x * box.width} ${box.y + y * box.height})`);
  };
  const faceOf = (name) => map.querySelector(`[data-face="${name}"]`);
  map.addEventListener("click", (event) => {
    if (event.target.closest("[data-pin]")) return;
    const hit = at(event);
    if (!hit) return;
    show(hit.face, hit.x, hit.y);
    if (more.open) form.elements.words.focus();
  });
  /* By key a finding stands where the last on that face left room: each a little further along. */
  const free = (face) => {
    const box = face.getBBox();
    const taken = [...map.querySelectorAll("[data-pin] > g")].filter((pin) => {
      const to = pin.transform.baseVal.consolidate().matrix;
      return to.e >= box.x && to.e <= box.x + box.width && to.f >= box.y && to.f <= box.y + box.height;
    }).length;
    return [(0.3 + 0.37 * taken) % 0.9, taken % 2 ? 0.68 : 0.42];
  };
  quick.addEventListener("change", (event) => {
    if (event.target.name === "face") {
      const face = faceOf(event.target.value);
      show(face, ...free(face));
    }
  });
  form.elements.face.addEventListener("change", () => {
    const face = faceOf(form.elements.face.value);
    if (face) show(face, ...free(face));
  });
  form.querySelectorAll("[data-nudge]").forEach((button) =>
    button.addEventListener("click", () => {
      const [dx, dy] = button.dataset.nudge.split(",").map(Number);
      const near = (name, d) => Math.min(1, Math.max(0, Number(form.elements[name].value || 0.5) + d));
      const face = faceOf(form.elements.face.value);
      if (face) show(face, near("x", dx), near("y", dy));
    }),
  );
  const chosen = faceOf(quick.elements.face.value);
  if (chosen) [quick.elements.x.value, quick.elements.y.value] = free(chosen).map((n) => n.toFixed(3));

  const send = (pin, face, x, y) => {
    const move = document.getElementById("move-form");
    // Who may not move it sees where it was.
    if (!move) return window.location.reload();
    move.action = `/intake/findings/${pin.dataset.pin}/`;
    move.elements.face.value = face;
    move.elements.x.value = x.toFixed(3);
    move.elements.y.value = y.toFixed(3);
    move.submit();
  };
  let dragged = null,
    moved = false;
  map.addEventListener("pointerdown", (event) => {
    dragged = event.target.closest("[data-pin]");
    moved = false;
    if (dragged) {
      event.preventDefault();
      map.setPointerCapture(event.pointerId);
    }
  });
  map.addEventListener("pointermove", (event) => {
    if (!dragged) return;
    moved = true;
    const point = new DOMPoint(event.clientX, event.clientY).matrixTransform(map.getScreenCTM().inverse());
    dragged.querySelector("g").setAttribute("transform", `translate(${point.x} ${point.y})`);
  });
  map.addEventListener("pointerup", (event) => {
    const pin = dragged;
    dragged = null;
    if (!pin || !moved) return;
    const hit = at(event);
    if (hit) send(pin, hit.face.dataset.face, hit.x, hit.y);
    else window.location.reload();
  });
  map.addEventListener("keydown", (event) => {
    const pin = event.target.closest("[data-pin]");
    const step = { ArrowLeft: [-0.03, 0], ArrowRight: [0.03, 0], ArrowUp: [0, -0.03], ArrowDown: [0, 0.03] }[event.key];
    if (!pin || !step) return;
    event.preventDefault();
    const group = pin.querySelector("g").transform.baseVal.consolidate().matrix;
    for (const face of map.querySelectorAll("[data-face]")) {
      const box = face.getBBox();
      const x = (group.e - box.x) / box.width,
        y = (group.f - box.y) / box.height;
      if (x < -0.001 || x > 1.001 || y < -0.001 || y > 1.001) continue;
      const to = [Math.min(1, Math.max(0, x + step[0])), Math.min(1, Math.max(0, y + step[1]))];
      pin
        .querySelector("g")
        .setAttribute("transform", `translate(${box.x + to[0] * box.width} ${box.y + to[1] * box.height})`);
      clearTimeout(pin.wait);
      pin.wait = setTimeout(() => send(pin, face.dataset.face, to[0], to[1]), 700);
      return;
    }
  });
})();
