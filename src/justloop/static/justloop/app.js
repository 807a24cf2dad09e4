// Small helps around htmx and Alpine; everything works without them.
"use strict";

// What asked for the swap that an event tells of: a form or a link.
const asker = (event) => event.detail && event.detail.ctx && event.detail.ctx.sourceElement;

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

// A trial that begins is seen: its line and the map come into view, and the keys go on from there.
let triedBefore = false;
document.addEventListener("htmx:before:swap", () => {
  triedBefore = Boolean(document.querySelector(".trial"));
});
document.addEventListener("htmx:after:swap", () => {
  const trial = document.querySelector(".trial");
  if (!trial || triedBefore) return;
  trial.focus({ preventScroll: true });
  trial.scrollIntoView({ block: "start" });
});

// A line that was taken leaves an empty box for the next; one that was refused stays.
document.addEventListener("htmx:after:swap", (event) => {
  const form = asker(event);
  const line = form && form.matches(".add-line") && document.getElementById("line");
  if (line) line.value = line.getAttribute("value") || "";
});

// A row of the table leads the map under it; on a phone, which has no map, it leads to its loop.
document.addEventListener("htmx:after:swap", (event) => {
  const row = asker(event);
  if (!row || !row.matches(".prove tbody th a")) return;
  const narrow = window.matchMedia("(max-width: 919px)").matches;
  if (narrow) document.querySelector(".sheet-open").click();  // the sheet with its loop comes up
  else document.querySelector(".prove tr.current")?.scrollIntoView({ block: "nearest" });
});

// What a person opened stays open through a swap (htmx leaves "open" alone); a refusal inside
// something closed opens it.
document.addEventListener("htmx:after:swap", () => {
  for (const error of document.querySelectorAll("details:not([open]) .error")) {
    error.closest("details").open = true;
  }
});

// A tab that was chosen while an answer was on its way stays open when the answer comes.
let tabMeanwhile = "";
document.addEventListener("htmx:before:request", () => {
  tabMeanwhile = "";
});
document.addEventListener("htmx:after:swap", () => {
  const tab = tabMeanwhile && document.querySelector(`.tabs [data-tab=${tabMeanwhile}]`);
  tabMeanwhile = "";
  if (tab) tab.click();
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

// Keys: one letter each, never while something is typed. "?" lists them.
const LOOK_KEYS = { f: "fault", l: "load", n: "neutral", t: "touch" };
const follow = (link) => link && link.click();
const focusOn = (selector) => {
  const found = document.querySelector(selector);
  if (!found) return false;
  const closed = found.closest("details:not([open])");
  if (closed) closed.open = true;
  found.focus();
  found.scrollIntoView({ block: "nearest" });
  return true;
};
const openTab = (name) => {
  const tab = document.querySelector(`.tabs [data-tab=${name}]`);
  if (tab) tab.click();
  return Boolean(tab);
};
const neighbour = (step) => {
  const links = [...document.querySelectorAll(".circuits a, .prove tbody th a")];
  const at = links.findIndex((link) => link.getAttribute("aria-current"));
  follow(links[at < 0 ? 0 : at + step]);
};
const KEYS = {
  "?": () => document.getElementById("keys").showModal(),
  j: () => neighbour(1),
  k: () => neighbour(-1),
  a: () => focusOn("#line") || follow(document.querySelector("[data-stage=survey]")),
  e: () => openTab("facts") && focusOn(".bench .facts .box, .bench .facts button"),
  x: () => openTab("try") && focusOn(".tries button"),
  "/": () => focusOn("#find") || follow(document.querySelector("[data-stage=prove]")),
  u: () => document.getElementById("undo").click(),
  r: () => document.getElementById("redo").click(),
};
document.addEventListener("keydown", (event) => {
  if (!document.getElementById("keys") || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.target.closest("input, select, textarea, dialog")) return;
  const key = event.key;
  const look = LOOK_KEYS[key] && document.querySelector(`[data-look="${LOOK_KEYS[key]}"]`);
  const stage = /^[0-9]$/.test(key) && document.querySelector(`[data-key="${key}"]`);
  if (look || stage) follow(look || stage);
  else if (KEYS[key]) KEYS[key]();
  else return;
  event.preventDefault();
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
  // A tab of the bench opens where it stands, without asking the server; the address remembers it.
  window.Alpine.data("tabs", () => ({
    choose(event) {
      const chosen = event.target.closest("a");
      if (!chosen || event.ctrlKey || event.metaKey || event.shiftKey) return;
      event.preventDefault();
      for (const tab of chosen.parentElement.children) tab.removeAttribute("aria-current");
      chosen.setAttribute("aria-current", "true");
      for (const panel of document.querySelectorAll("[data-tab-of]")) {
        panel.hidden = panel.dataset.tabOf !== chosen.dataset.tab;
      }
      for (const box of document.querySelectorAll("input[name=tab]")) box.value = chosen.dataset.tab;
      history.replaceState(history.state, "", chosen.href);
      tabMeanwhile = chosen.dataset.tab;
    },
  }));
  // The sheet and the menu open by their own address (#bench, #menu), with or without script;
  // Escape closes them, and the focus goes back to what opened them.
  window.Alpine.data("drawer", () => ({
    close() {
      const opener = document.querySelector(`a[href="#${this.$root.id}"]`);
      if (location.hash !== `#${this.$root.id}`) return;
      location.hash = "#main";
      if (opener) opener.focus();
    },
  }));
  // The plan: arrow keys, a finger or the mouse move what is chosen, a foot at a time. What the
  // form sends is where it stands then; without script its buttons do the same.
  window.Alpine.data("plan", () => ({
    east: 0, north: 0, held: null, timer: 0,
    init() {  // on a phone: what is chosen is in sight
      const chosen = this.$root.querySelector(".plan-chosen");
      if (!chosen) return;
      const box = this.$root.getBoundingClientRect(), at = chosen.getBoundingClientRect();
      this.$root.scrollLeft += at.left - box.left - box.width / 2;
    },
    get form() { return document.getElementById("place-form"); },
    mark() { return this.$root.querySelector(`[data-place="${this.$root.dataset.at}"]`); },
    feet() {
      const [x, y] = this.form.text.defaultValue.split(",").map(Number);
      return Number.isFinite(x) && Number.isFinite(y) ? [x, y] : null;
    },
    shift(east, north) {
      const scale = Number(this.$root.dataset.scale);
      this.mark().setAttribute("transform", `translate(${east * scale} ${-north * scale})`);
      const at = this.feet();
      if (at) this.form.text.value = `${at[0] + east}, ${at[1] + north}`;
    },
    send() {
      if ((this.east || this.north) && this.feet()) this.form.requestSubmit();
      this.east = this.north = 0;
    },
    key(event) {
      const way = { ArrowUp: [0, 1], ArrowDown: [0, -1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] }[event.key];
      if (!way || !this.form || !this.mark() || event.ctrlKey || event.metaKey || event.altKey) return;
      event.preventDefault();
      const by = event.shiftKey ? 5 : 1;
      this.east += way[0] * by;
      this.north += way[1] * by;
      this.shift(this.east, this.north);
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.send(), 500);
    },
    grab(event) {
      const mark = event.target.closest("[data-place]");
      if (!mark || mark.dataset.place !== this.$root.dataset.at || !this.form) return;
      event.preventDefault();
      this.held = [event.clientX, event.clientY];
      this.$root.setPointerCapture(event.pointerId);
    },
    drag(event) {
      if (!this.held) return;
      const svg = this.$root.querySelector("svg");
      const scale = Number(this.$root.dataset.scale) * svg.getBoundingClientRect().width / svg.viewBox.baseVal.width;
      this.east = Math.round((event.clientX - this.held[0]) / scale);
      this.north = Math.round((this.held[1] - event.clientY) / scale);
      this.shift(this.east, this.north);
    },
    drop() {
      if (!this.held) return;
      this.held = null;
      this.send();
    },
  }));
  window.Alpine.data("keys", () => ({
    open() {
      document.getElementById("keys").showModal();
    },
  }));
});

// What went wrong is said on top of the page; the page itself, and what is typed in it, stays.
const NO_ANSWER = "No answer from the server. What you typed is still here: try again.";
const complain = (words) => {
  const main = document.getElementById("main");
  const told = main.querySelector(".told.trouble") || document.createElement("p");
  told.className = "told error trouble";
  told.setAttribute("role", "alert");
  told.textContent = words;
  main.prepend(told);
  told.scrollIntoView({ block: "nearest" });
};
document.addEventListener("htmx:response:error", (event) => {
  const page = new DOMParser().parseFromString(event.detail.ctx.text, "text/html");
  const heading = page.querySelector("main h1");
  complain(heading ? heading.textContent : NO_ANSWER);
});
document.addEventListener("htmx:error", (event) => {
  if (event.detail && event.detail.ctx) complain(NO_ANSWER);
});
document.addEventListener("htmx:before:request", () => {
  for (const told of document.querySelectorAll(".told.trouble")) told.remove();
});
