// A press on a picture says where a finding is seen: its place goes into the two fields beside it.
document.querySelectorAll("[data-mark-on]").forEach((picture) => {
  picture.addEventListener("click", (press) => {
    const form = document.getElementById(picture.dataset.markOn);
    const edge = picture.getBoundingClientRect();
    const share = (at, from, length) => Math.round((1000 * (at - from)) / length) / 10;
    form.elements.x.value = share(press.clientX, edge.left, edge.width);
    form.elements.y.value = share(press.clientY, edge.top, edge.height);
    form.elements.finding.focus();
  });
});
