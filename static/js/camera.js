/* What a label says is read off a picture, and goes where a scanner would type it. A picture that the phone takes can be
   read without https, where no page may look through a camera by itself. Nothing of a picture leaves the device. */
"use strict";
(() => {
  const camera = document.querySelector("[data-reader]");
  const said = document.getElementById("snapped");
  if (!camera || !said) return;
  // Beside a label of ours there may be a serial or a number of a carrier, in bars: some browsers read these too.
  const FORMATS = ["qr_code", "data_matrix", "code_128", "code_39"];
  const BARS = ["code_128", "code_39"];
  // The longer side, px: large enough for a code in the middle, then for a small one, then past the grain.
  const SIZES = [900, 1800, 450];

  const once = (make) => {
    let made;
    return () => (made ??= make());
  };
  const detector = once(async () => {
    const known = (await window.BarcodeDetector?.getSupportedFormats().catch(() => null)) ?? [];
    if (!known.includes("qr_code")) return null;
    return new BarcodeDetector({ formats: FORMATS.filter((format) => known.includes(format)) });
  });
  const library = once(
    () =>
      new Promise((resolve, reject) => {
        const onload = () => resolve(window.jsQR);
        document.head.append(
          Object.assign(document.createElement("script"), { src: camera.dataset.reader, onload, onerror: reject }),
        );
      }),
  );

  const byBrowser = async (picture) => {
    const found = (await (await detector())?.detect(picture).catch(() => null)) ?? [];
    const [one] = found.sort((a, b) => BARS.includes(a.format) - BARS.includes(b.format));
    return one ? { code: one.rawValue.trim(), isBars: BARS.includes(one.format) } : null;
  };
  const canvas = document.createElement("canvas");
  const drawn = canvas.getContext("2d", { willReadFrequently: true });
  const byLibrary = (find, picture, size) => {
    const [width, height] = [picture.videoWidth ?? picture.width, picture.videoHeight ?? picture.height];
    const scale = Math.min(1, size / Math.max(width, height));
    canvas.width = Math.round(width * scale);
    canvas.height = Math.round(height * scale);
    drawn.drawImage(picture, 0, 0, canvas.width, canvas.height);
    return find(drawn.getImageData(0, 0, canvas.width, canvas.height).data, canvas.width, canvas.height)?.data.trim();
  };

  window.labels = {
    /* The code in a picture or in what a camera sees: {code, isBars}, or null. One size is enough of what goes on. */
    async read(picture, sizes = SIZES) {
      const found = await byBrowser(picture);
      if (found?.code) return found;
      const find = await library();
      for (const size of sizes) {
        const code = byLibrary(find, picture, size);
        if (code) return { code, isBars: false };
      }
      return null;
    },
  };

  const say = (words) => {
    said.textContent = words;
    said.hidden = !words;
  };
  camera.addEventListener("change", async () => {
    const [file] = camera.files;
    if (!file) return;
    say("Reading the label…");
    // A picture that the browser can't open has no code either.
    const found = await createImageBitmap(file)
      .then((picture) => window.labels.read(picture))
      .catch(() => null);
    camera.value = "";
    if (!found) {
      say("No code could be read in that picture: nearer, straight from above, without glare. Or type the tag.");
      return;
    }
    say("");
    window.scanned.send(found.code);
  });
})();
