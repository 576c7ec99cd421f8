/* Looking through the camera until a label is read, where the page may: over https, or on this very machine. Anywhere
   else, and where a person or the device says no, the same press takes a picture. */
"use strict";
(() => {
  const camera = document.querySelector("[data-reader]");
  const view = document.getElementById("looking");
  if (!camera || !view || !window.labels || !navigator.mediaDevices?.getUserMedia) return;
  const video = view.querySelector("video");
  const said = view.querySelector("[role=status]");
  const [shut, light, picture] = ["shut", "light", "picture"].map((name) =>
    view.querySelector(`[data-looking=${name}]`),
  );
  const SIZE = [900]; // px of the longer side
  const APART = 120; // ms from one look to the next
  const GONE = 1500; // ms out of sight, until the same label is meant anew
  const AWAIT = 60_000; // ms in which the page comes back that a label was sent to
  const NOT_HERE = "no looking through the camera until";
  const HOUR = 3_600_000; // ms, until it is tried again
  const ON = "reading on by the camera";
  const here = location.pathname + location.search;

  const take = () => {
    view.close();
    camera.dataset.takes = "";
    camera.click();
    delete camera.dataset.takes;
  };
  const pause = () => new Promise((resolve) => setTimeout(resolve, APART));
  const stop = (stream) => stream.getTracks().forEach((track) => track.stop());

  const seen = async () => {
    try {
      return await navigator.mediaDevices.getUserMedia({
        video: { facingMode: "environment", width: { ideal: 1280 }, height: { ideal: 960 } },
      });
    } catch ({ name }) {
      const isRefused = ["NotAllowedError", "SecurityError"].includes(name);
      if (isRefused || name === "NotFoundError") sessionStorage.setItem(NOT_HERE, Date.now() + HOUR);
      said.textContent = isRefused
        ? "The browser does not let this page look through the camera. A picture can be taken."
        : "The camera does not answer: something else may be using it. A picture can be taken.";
      return null;
    }
  };

  /* Until it is shut: the first label that is not `before`, which the hand may still hold in front of it. */
  const look = async (words, before = "") => {
    view.showModal();
    said.textContent = words;
    light.hidden = true;
    const stream = await seen();
    if (!stream) return;
    const [track] = stream.getVideoTracks();
    track.addEventListener("ended", () => view.close());
    view.addEventListener("close", () => stop(stream), { once: true });
    if (!view.open) {
      stop(stream);
      return;
    }
    light.hidden = !track.getCapabilities?.().torch;
    video.srcObject = stream;
    await video.play().catch(() => null);
    const found = await firstRead(before);
    if (!found || !view.open) return;
    navigator.vibrate?.(60);
    view.close();
    const { scan } = window.scanned.field().dataset;
    if (scan === "on") sessionStorage.setItem(ON, JSON.stringify({ at: here, code: found, until: Date.now() + AWAIT }));
    window.scanned.send(found);
  };

  const firstRead = async (before) => {
    let [still, seenAt, bars] = [before, Date.now(), ""];
    for (; view.open; await pause()) {
      if (video.readyState < HTMLMediaElement.HAVE_CURRENT_DATA) continue;
      const found = await window.labels.read(video, SIZE).catch(() => undefined);
      if (found === undefined) {
        said.textContent = "What reads labels does not load: there is no connection. The tag can be typed.";
        return "";
      }
      if (found?.code === still) seenAt = Date.now();
      else if (Date.now() - seenAt > GONE) still = "";
      if (!found || found.code === still) continue;
      // Bars have seldom a check of their own: what was read twice alike was read.
      if (!found.isBars || found.code === bars) return found.code;
      bars = found.code;
    }
    return "";
  };

  light.addEventListener("click", async () => {
    const on = light.getAttribute("aria-pressed") !== "true";
    const [track] = video.srcObject.getVideoTracks();
    const lit = await track.applyConstraints({ advanced: [{ torch: on }] }).then(
      () => on,
      () => !on,
    );
    light.setAttribute("aria-pressed", lit);
  });
  view.addEventListener("close", () => light.setAttribute("aria-pressed", false));
  shut.addEventListener("click", () => view.close());
  picture.addEventListener("click", take);
  document.addEventListener("visibilitychange", () => document.hidden && view.close());
  camera.addEventListener("click", (event) => {
    if ("takes" in camera.dataset || Date.now() < sessionStorage.getItem(NOT_HERE)) return;
    event.preventDefault();
    look("Hold a label in front of the camera.");
  });

  /* Where one label after another is put down, the camera goes on when the page is back, and says what became of the one
     before; after one that was refused, when somebody has seen why. */
  const on = JSON.parse(sessionStorage.getItem(ON) || "null");
  sessionStorage.removeItem(ON);
  if (on?.at !== here || Date.now() > on.until || document.querySelector("[data-refused]")) return;
  const done = document.querySelector("[data-said] [role=status]")?.textContent.trim() ?? "";
  look(`${done} The next one.`.trim(), on.code);
})();
