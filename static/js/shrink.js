/* A picture is made as small as it is kept before it is sent: a phone takes it ten times as large, and a cellar has little
   signal. What the browser can't read goes as it is; the shop says what is wrong with it. */
"use strict";
(() => {
  const most = Number(document.body.dataset.longest);
  const QUALITY = 0.92;

  const shrunk = async (file) => {
    const picture = await createImageBitmap(file).catch(() => null); // upright, as the camera says it was held
    if (!picture) return file;
    const share = most / Math.max(picture.width, picture.height);
    if (share >= 1) return file;
    const sheet = Object.assign(document.createElement("canvas"), {
      width: Math.round(picture.width * share),
      height: Math.round(picture.height * share),
    });
    const pen = sheet.getContext("2d");
    pen.imageSmoothingQuality = "high";
    pen.drawImage(picture, 0, 0, sheet.width, sheet.height);
    picture.close();
    const small = await new Promise((done) => sheet.toBlob(done, "image/jpeg", QUALITY));
    return small && small.size < file.size ? new File([small], file.name, { type: "image/jpeg" }) : file;
  };

  document.addEventListener("change", async ({ target }) => {
    if (target.type !== "file" || !target.accept.includes("image") || target.dataset.reader || !most) return;
    const chosen = [...target.files],
      box = new DataTransfer();
    for (const file of chosen) box.items.add(await shrunk(file)); // one after another: each is large while it is read
    const isStillSo = target.files.length === chosen.length && chosen.every((file, at) => file === target.files[at]);
    if (isStillSo) target.files = box.files;
  });
})();
