/* Picking colours on a photo: each spot is the mean of a small square; what they mean is worked out on the server. */
"use strict";
(() => {
  const canvas = document.getElementById("sampler"),
    form = document.getElementById("spots-form");
  if (!canvas || !form) return;
  const pen = canvas.getContext("2d", { willReadFrequently: true }),
    picture = new Image(),
    HALF = 5;
  const COLOURS = {
    neutral: "#3f627c",
    sheltered: "#2c6e5f",
    exposed: "#a04e25",
    reference: "#2c6e5f",
    sample: "#a04e25",
  };
  let spots = {},
    at = null;
  const pick = () => document.querySelector("#picks input:checked").value;
  const each = (act) =>
    Object.entries(spots).forEach(([name, spot]) =>
      (name === "exposed" ? spot : [spot]).forEach((s, i) => act(name, s, i)),
    );
  const paint = () => {
    pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
    each((name, [x, y], i) => {
      pen.lineWidth = 3;
      pen.strokeStyle = "#fff";
      pen.fillStyle = COLOURS[name];
      pen.beginPath();
      pen.arc(x * canvas.width, y * canvas.height, 9, 0, 7);
      pen.fill();
      pen.stroke();
      pen.fillStyle = "#fff";
      pen.font = "600 12px sans-serif";
      pen.textAlign = "center";
      pen.fillText(name === "exposed" ? i + 1 : name[0].toUpperCase(), x * canvas.width, y * canvas.height + 4);
    });
    if (at) {
      pen.lineWidth = 2;
      pen.strokeStyle = "#b3261e";
      pen.strokeRect(at[0] - HALF, at[1] - HALF, 2 * HALF, 2 * HALF);
    }
  };
  const mean = (x, y) => {
    pen.drawImage(picture, 0, 0, canvas.width, canvas.height);
    const left = Math.max(0, Math.round(x) - HALF),
      top = Math.max(0, Math.round(y) - HALF);
    const data = pen.getImageData(left, top, 2 * HALF, 2 * HALF).data,
      sum = [0, 0, 0];
    for (let i = 0; i < data.length; i += 4) for (const c of [0, 1, 2]) sum[c] += data[i + c];
    return sum.map((s) => Math.round((s / (data.length / 4)) * 10) / 10);
  };
  const take = (x, y) => {
    const spot = [x / canvas.width, y / canvas.height, ...mean(x, y)],
      name = pick();
    if (name === "exposed") spots.exposed = [...(spots.exposed || []), spot].slice(-12);
    else spots[name] = spot;
    if (name === "sheltered" || name === "exposed") {
      delete spots.reference;
      delete spots.sample;
    }
    tell();
  };
  const tell = () => {
    paint();
    document.getElementById("spots").value = JSON.stringify(spots);
    form.dispatchEvent(new Event("picked"));
  };
  canvas.addEventListener("click", (event) => {
    const box = canvas.getBoundingClientRect();
    take(
      ((event.clientX - box.left) * canvas.width) / box.width,
      ((event.clientY - box.top) * canvas.height) / box.height,
    );
  });
  canvas.addEventListener("keydown", (event) => {
    const step = { ArrowLeft: [-8, 0], ArrowRight: [8, 0], ArrowUp: [0, -8], ArrowDown: [0, 8] }[event.key];
    at = at || [canvas.width / 2, canvas.height / 2];
    if (event.key === "Enter") {
      event.preventDefault();
      take(...at);
      return;
    }
    if (!step) return;
    event.preventDefault();
    at = [Math.min(canvas.width, Math.max(0, at[0] + step[0])), Math.min(canvas.height, Math.max(0, at[1] + step[1]))];
    paint();
  });
  document.getElementById("clear-spots").addEventListener("click", () => {
    spots = {};
    tell();
  });
  picture.addEventListener("load", () => {
    canvas.height = Math.round((canvas.width * picture.naturalHeight) / picture.naturalWidth);
    paint();
  });
  picture.src = canvas.dataset.src;
})();
