// A tap on the picture says where the circle goes; the fields can be typed as well.
"use strict";

(() => {
  const photo = document.getElementById("photo");
  const form = document.getElementById("mark-form");
  if (!photo || !form) return;
  photo.addEventListener("click", (event) => {
    const box = photo.getBoundingClientRect();
    form.elements.x.value = ((event.clientX - box.left) / box.width).toFixed(3);
    form.elements.y.value = ((event.clientY - box.top) / box.height).toFixed(3);
    form.submit();
  });
})();
