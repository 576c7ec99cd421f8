/* Care: a region is dragged on the case; its face and shares stand in the fields, which can be typed instead. */
"use strict";
(() => {
  const form = document.getElementById("care-form");
  if (!form) return;
  const drawings = [...form.querySelectorAll("[data-care]")];
  /* Each kind asks for other figures. */
  const groups = [...form.querySelectorAll("[data-kind]")];
  groups.forEach((group) => {
    const asks = form.elements[group.dataset.of];
    asks.addEventListener("change", () => (group.hidden = group.dataset.kind !== asks.value));
  });
  if (!drawings.length) return;
  const pointOn = (drawing, event) =>
    new DOMPoint(event.clientX, event.clientY).matrixTransform(drawing.getScreenCTM().inverse());
  /* To a thousandth, so that what is typed adds up. */
  const clamp = (share) => Math.round(1000 * Math.min(1, Math.max(0, share))) / 1000;
  const say = (name, share) => {
    form.elements[name].value = (100 * share).toFixed(1).replace(/\.0$/, "");
  };
  const draw = () => {
    const share = (name, other) => (form.elements[name].value === "" ? other : Number(form.elements[name].value) / 100);
    const left = share("left", 0),
      top = share("top", 0);
    const wide = share("wide", 1 - left),
      high = share("high", 1 - top);
    drawings.forEach((drawing) => {
      const face = drawing.querySelector(`[data-face="${form.elements.face.value}"]`);
      const picked = drawing.querySelector(".care-picked");
      const box = face && face.getBBox();
      const good = box && [left, top, wide, high].every(Number.isFinite);
      const figures = good
        ? [box.x + left * box.width, box.y + top * box.height, wide * box.width, high * box.height]
        : [0, 0, 0, 0];
      ["x", "y", "width", "height"].forEach((name, place) => picked.setAttribute(name, Math.max(0, figures[place])));
    });
  };
  ["face", "left", "top", "wide", "high"].forEach((name) => form.elements[name].addEventListener("input", draw));
  drawings.forEach((drawing) => {
    let start = null;
    drawing.addEventListener("pointerdown", (event) => {
      const face = event.target.closest("[data-face]");
      if (!face || ![...form.elements.face.options].some((option) => option.value === face.dataset.face)) return;
      event.preventDefault();
      drawing.setPointerCapture(event.pointerId);
      start = { box: face.getBBox(), at: pointOn(drawing, event), face: face.dataset.face };
    });
    drawing.addEventListener("pointermove", (event) => {
      if (!start) return;
      const to = pointOn(drawing, event);
      const across = [start.at.x, to.x].map((x) => clamp((x - start.box.x) / start.box.width)).sort((a, b) => a - b);
      const down = [start.at.y, to.y].map((y) => clamp((y - start.box.y) / start.box.height)).sort((a, b) => a - b);
      if (across[1] - across[0] < 0.03 || down[1] - down[0] < 0.03) return;
      start.dragged = true;
      form.elements.face.value = start.face;
      say("left", across[0]);
      say("top", down[0]);
      say("wide", across[1] - across[0]);
      say("high", down[1] - down[0]);
      draw();
    });
    drawing.addEventListener("pointerup", () => {
      /* A press without a drag is the whole face. */
      if (start && !start.dragged) {
        form.elements.face.value = start.face;
        ["left", "top", "wide", "high"].forEach((name) => (form.elements[name].value = ""));
        draw();
      }
      start = null;
    });
    drawing.addEventListener("pointercancel", () => (start = null));
  });
})();
