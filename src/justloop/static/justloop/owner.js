// One picture at a time: arrows, swipe, two buttons. Without this script they stand under each other.
"use strict";

(() => {
  const slides = [...document.querySelectorAll(".slide")];
  const back = document.getElementById("owner-back");
  const on = document.getElementById("owner-on");
  if (!slides.length) return;
  let at = 0;
  const show = (to) => {
    at = Math.max(0, Math.min(to, slides.length - 1));
    slides.forEach((slide, n) => { slide.hidden = n !== at; });
    back.disabled = at === 0;
    on.disabled = at === slides.length - 1;
    window.scrollTo(0, 0);
  };
  back.hidden = false;
  on.hidden = false;
  back.addEventListener("click", () => show(at - 1));
  on.addEventListener("click", () => show(at + 1));
  document.addEventListener("keydown", (event) => {
    if (event.key === "ArrowRight" || event.key === "PageDown") show(at + 1);
    if (event.key === "ArrowLeft" || event.key === "PageUp") show(at - 1);
  });
  let from = null;
  document.addEventListener("touchstart", (event) => { from = event.touches[0].clientX; }, { passive: true });
  document.addEventListener("touchend", (event) => {
    if (from === null || event.target.closest(".map-box")) return;
    const moved = event.changedTouches[0].clientX - from;
    if (Math.abs(moved) > 60) show(at + (moved < 0 ? 1 : -1));
    from = null;
  });
  show(0);
})();
