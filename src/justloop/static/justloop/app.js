// Small helps around htmx and Alpine; everything works without them.
"use strict";

// The control that had the focus may be gone after a swap (a “Yes” that was answered): go on
// to the next fact instead of falling back to the top of the page.
let formBefore = -1;
const factForms = () => [...document.querySelectorAll("form.fact")];
document.addEventListener("htmx:before:swap", () => {
  const form = document.activeElement && document.activeElement.closest("form.fact");
  formBefore = form ? factForms().indexOf(form) : -1;
});
document.addEventListener("htmx:after:swap", () => {
  if (formBefore < 0 || document.activeElement !== document.body) return;
  const next = factForms()[formBefore + 1] || factForms()[formBefore];
  const control = next && next.querySelector("select, input:not([type=hidden]), button");
  if (control) control.focus();
});

// After a swap a list or box that nobody is typing in shows what the server holds:
// a morph changes attributes, not what a person left in the control.
document.addEventListener("htmx:after:swap", () => {
  for (const select of document.querySelectorAll("select[data-value]")) {
    if (select !== document.activeElement) select.value = select.dataset.value;
  }
  for (const box of document.querySelectorAll(".fact input.box")) {
    if (box !== document.activeElement) box.value = box.getAttribute("value") || "";
  }
});

// What a person opened stays open through a swap (htmx leaves "open" alone); a refusal inside
// something closed opens it.
document.addEventListener("htmx:after:swap", () => {
  for (const error of document.querySelectorAll("details:not([open]) .error")) {
    error.closest("details").open = true;
  }
});

// A quiet busy sign past 300 ms.
let waiting = 0;
let timer = 0;
document.addEventListener("htmx:before:request", () => {
  waiting += 1;
  timer = timer || setTimeout(() => document.body.classList.add("is-busy"), 300);
});
document.addEventListener("htmx:finally:request", () => {
  waiting = Math.max(0, waiting - 1);
  if (waiting === 0) {
    clearTimeout(timer);
    timer = 0;
    document.body.classList.remove("is-busy");
  }
});

document.addEventListener("alpine:init", () => {
  window.Alpine.data("workspace", () => ({
    init() {
      // Pointing at a leg in the strip, the list or the map lights it everywhere.
      this.$root.addEventListener("pointerover", (event) => this.light(event));
      this.$root.addEventListener("pointerleave", () => this.dark());
    },
    light(event) {
      const at = event.target.closest("[data-leg]");
      this.dark();
      if (!at) return;
      for (const leg of this.$root.querySelectorAll("[data-leg]")) {
        leg.classList.toggle("lit", leg.dataset.leg === at.dataset.leg);
      }
    },
    dark() {
      for (const leg of this.$root.querySelectorAll(".lit")) leg.classList.remove("lit");
    },
  }));
});
