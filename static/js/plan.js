/* The slider and the number are one bid: moving either asks the server what it would mean. */
"use strict";
(() => {
  const slide = document.getElementById("slide"),
    bid = document.getElementById("bid");
  if (!slide) return;
  slide.addEventListener("input", () => {
    bid.value = slide.value;
    bid.dispatchEvent(new Event("input", { bubbles: true }));
  });
  bid.addEventListener("input", () => {
    slide.value = bid.value;
  });
})();
