/* A label is read off a picture that the phone takes; what it says goes where a scanner would type it. Works without
   https, where no page may look through a camera by itself. */
"use strict";
(() => {
  const camera = document.querySelector("[data-reader]");
  const said = document.getElementById("snapped");
  if (!camera || !said) return;
  // The longer side, px: large enough for a code in the middle, then for a small one, then past the grain.
  const SIZES = [900, 1800, 450];

  const reader = () =>
    new Promise((resolve, reject) => {
      if (window.jsQR) {
        resolve(window.jsQR);
        return;
      }
      const onload = () => resolve(window.jsQR);
      document.head.append(
        Object.assign(document.createElement("script"), { src: camera.dataset.reader, onload, onerror: reject }),
      );
    });

  const read = async (file) => {
    const [find, picture] = await Promise.all([reader(), createImageBitmap(file)]);
    const whole = Math.max(picture.width, picture.height);
    for (const size of SIZES) {
      const scale = Math.min(1, size / whole);
      const canvas = document.createElement("canvas");
      canvas.width = Math.round(picture.width * scale);
      canvas.height = Math.round(picture.height * scale);
      const drawn = canvas.getContext("2d");
      drawn.drawImage(picture, 0, 0, canvas.width, canvas.height);
      const found = find(drawn.getImageData(0, 0, canvas.width, canvas.height).data, canvas.width, canvas.height);
      if (found?.data) return found.data;
    }
    return "";
  };

  const say = (words) => {
    said.textContent = words;
    said.hidden = !words;
  };

  camera.addEventListener("change", async () => {
    const [file] = camera.files;
    if (!file) return;
    say("Reading the label…");
    let code = "";
    try {
      code = (await read(file)).trim();
    } catch {
      // A picture that the browser can't open has no code either.
    }
    camera.value = "";
    if (!code) {
      say("No code could be read in that picture: nearer, straight from above, without glare. Or type the tag.");
      return;
    }
    say("");
    const field = document.querySelector("[data-scan]") ?? document.getElementById("scan");
    field.value = code;
    field.form.requestSubmit();
  });
})();
