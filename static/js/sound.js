/* Recording a short sound as WAV, so that every browser can play it: sixteen bits, one channel, half a minute at most. */
"use strict";
(() => {
  const MOST = 25,
    RATE = 22050;
  if (!navigator.mediaDevices || !window.AudioContext) return;
  const wav = (samples) => {
    const bytes = new DataView(new ArrayBuffer(44 + samples.length * 2));
    const text = (at, word) => [...word].forEach((letter, i) => bytes.setUint8(at + i, letter.charCodeAt(0)));
    text(0, "RIFF");
    bytes.setUint32(4, 36 + samples.length * 2, true);
    text(8, "WAVEfmt ");
    bytes.setUint32(16, 16, true);
    bytes.setUint16(20, 1, true);
    bytes.setUint16(22, 1, true);
    bytes.setUint32(24, RATE, true);
    bytes.setUint32(28, RATE * 2, true);
    bytes.setUint16(32, 2, true);
    bytes.setUint16(34, 16, true);
    text(36, "data");
    bytes.setUint32(40, samples.length * 2, true);
    samples.forEach((s, i) => bytes.setInt16(44 + i * 2, Math.max(-1, Math.min(1, s)) * 32767, true));
    return new File([bytes], "recorded.wav", { type: "audio/wav" });
  };
  const record = async (form, button) => {
    const said = form.querySelector(".record__said"),
      words = button.querySelector("span");
    let stream;
    try {
      stream = await navigator.mediaDevices.getUserMedia({ audio: true });
    } catch (problem) {
      said.textContent = "No microphone is allowed here. Choose a file instead.";
      return;
    }
    const sound = new AudioContext({ sampleRate: RATE }),
      source = sound.createMediaStreamSource(stream);
    const tap = sound.createScriptProcessor(4096, 1, 1),
      samples = [];
    const began = Date.now();
    const end = () => {
      if (!form.stopRecording) return;
      form.stopRecording = null;
      tap.disconnect();
      source.disconnect();
      stream.getTracks().forEach((track) => track.stop());
      sound.close();
      const holder = new DataTransfer();
      holder.items.add(wav(samples));
      form.querySelector("input[type=file][name=clip]").files = holder.files;
      words.textContent = "Record again";
      said.textContent = `${((Date.now() - began) / 1000).toFixed(0)} s recorded. Say what is heard, then keep it.`;
    };
    tap.onaudioprocess = (event) => {
      samples.push(...event.inputBuffer.getChannelData(0));
      const seconds = (Date.now() - began) / 1000;
      said.textContent = `recording, ${seconds.toFixed(0)} of ${MOST} s`;
      if (seconds >= MOST) end();
    };
    source.connect(tap);
    tap.connect(sound.destination);
    form.stopRecording = end;
    words.textContent = "Stop";
  };
  const ready = () =>
    document.querySelectorAll("[data-record-go][hidden]").forEach((button) => {
      button.hidden = false;
    });
  document.addEventListener("click", (event) => {
    const button = event.target.closest("[data-record-go]");
    if (!button) return;
    const form = button.closest("[data-record]");
    if (form.stopRecording) form.stopRecording();
    else record(form, button);
  });
  document.addEventListener("htmx:afterSwap", ready);
  ready();
})();
