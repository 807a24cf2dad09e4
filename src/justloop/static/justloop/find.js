// Find circuits: choosing a breaker without asking the server, and answers that wait on the phone
// until there is a signal. Without this script every link and form works on its own.
"use strict";

(() => {
  const root = document.querySelector("[data-find]");
  const form = document.getElementById("answer-form");
  if (!root || !form) return;
  const key = `find-${root.dataset.find}`;
  const answer = document.getElementById("answer");
  const refused = document.getElementById("refused");
  const waiting = document.getElementById("waiting");
  const kept = () => JSON.parse(localStorage.getItem(key) || "[]");
  // What was refused, with its reason, until a person decides; those behind it go on.
  const aside = () => JSON.parse(localStorage.getItem(`${key}-aside`) || "[]");
  const refusedList = document.getElementById("refused-list");
  const setAside = (list) => {
    localStorage.setItem(`${key}-aside`, JSON.stringify(list));
    refusedList.hidden = list.length === 0;
    refusedList.querySelector("ul").replaceChildren(...list.map((one, n) => {
      const row = document.createElement("li");
      const said = document.createElement("span");
      const first = Object.fromEntries(one.entries);
      said.textContent = `${first.name || first.do} · ${one.why}`;
      const button = (words, act) => {
        const made = document.createElement("button");
        made.type = "button";
        made.className = "act-quiet small";
        made.textContent = words;
        made.addEventListener("click", act);
        return made;
      };
      row.append(said, button("Send again", () => {
        setAside(aside().filter((_, at) => at !== n));
        keep([...kept(), one.entries]);
        flush();
      }), button("Throw away", () => {
        if (window.confirm("It was not kept. Throw it away?")) setAside(aside().filter((_, at) => at !== n));
      }));
      return row;
    }));
  };
  const keep = (list) => {
    localStorage.setItem(key, JSON.stringify(list));
    waiting.hidden = list.length === 0;
    const many = list.length === 1 ? "1 answer waits" : `${list.length} answers wait`;
    waiting.textContent = `No signal: ${many} on this phone and will be sent.`;
  };

  const say = (name, words) => {
    answer.querySelector(`[data-answer=${name}]`).textContent = words;
  };
  const choose = (link) => {
    say("title", link.dataset.title);
    say("name", link.dataset.name);
    answer.querySelector("[data-answer=vague]").hidden = !("vague" in link.dataset);
    form.elements.c.value = link.dataset.circuit;
    form.elements.name.value = link.dataset.name;
    const places = link.dataset.places.split(",");
    for (const box of form.querySelectorAll("[name=place]")) box.checked = places.includes(box.value);
    refused.hidden = true;
    for (const told of answer.querySelectorAll(".error:not(#refused)")) told.remove();
    for (const row of root.querySelectorAll("[data-row]")) {
      row.classList.toggle("current", row.dataset.row === link.dataset.circuit);
    }
    answer.hidden = false;
    answer.scrollIntoView({ block: "start" });
    answer.querySelector("button").focus({ preventScroll: true });
  };
  root.addEventListener("click", (event) => {
    const link = event.target.closest("a[data-circuit]");
    if (!link || event.ctrlKey || event.metaKey) return;
    const row = root.querySelector(`[data-row="${link.dataset.circuit}"] a`);
    if (!row) return; // of another panel: its own page
    event.preventDefault();
    choose(row);
  });

  const stands = (circuit, words, isFound) => {
    const row = root.querySelector(`[data-row="${circuit}"]`);
    if (!row) return;
    row.querySelector("[data-standing]").textContent = words;
    row.classList.toggle("is-found", isFound);
  };
  const isKept = (first, told) => {
    form.elements.base.value = told.base;
    const row = root.querySelector(`[data-row="${first.c}"] a`);
    const isFound = first.do === "found";
    if (row && isFound && first.name.trim()) {
      row.dataset.name = first.name.trim();
      delete row.dataset.vague;
      row.querySelector(".find-name").textContent = first.name.trim();
    }
    stands(first.c, isFound ? "✓ found" : "✗ nothing went dead", isFound);
    const count = root.querySelector("[data-count]");
    if (count) count.textContent = root.querySelectorAll(".is-found").length;
  };
  const refuse = (words) => {
    refused.hidden = false;
    refused.textContent = words;
  };
  const send = (body) =>
    fetch(form.action, {
      method: "POST",
      body: new URLSearchParams([...body, ["now_time", new Date().toISOString()]]),
      headers: { "X-Waited": "1", "X-Person": encodeURIComponent(document.body.dataset.person) },
      redirect: "error",
    });
  // Sends what waits, the oldest first; stops where there is still no signal.
  let isSending = false;
  const flush = async () => {
    if (isSending) return;
    isSending = true;
    try {
      if (!kept().length) return;
      // The page may be an old one that was kept: who is signed in, and a fresh token.
      const ready = await (await fetch("/field/ready", { redirect: "error" })).json();
      if (ready.person !== document.body.dataset.person) return;
      form.elements.csrfmiddlewaretoken.value = ready.token;
      for (let list = kept(); list.length; list = kept()) {
        const first = Object.fromEntries(list[0]);
        const body = list[0].map(([name, value]) =>
          name === "csrfmiddlewaretoken" ? [name, form.elements.csrfmiddlewaretoken.value] : [name, value]);
        const response = await send(body);
        if (response.status >= 500 || response.status === 429) break;
        const told = await response.json().catch(() => ({ sentence: "you may not change this job any more." }));
        const typed = first.name ? ` “${first.name}”` : "";
        if (response.ok) isKept(first, told);
        else {
          stands(first.c, `Not kept${typed}: ${told.sentence}`, false);
          setAside([...aside(), { entries: list[0], why: told.sentence }]);
        }
        keep(kept().slice(1));
      }
    } catch {
      // no signal, or a session that has ended: what waits goes on waiting
    } finally {
      isSending = false;
    }
  };
  form.addEventListener("submit", async (event) => {
    event.preventDefault();
    const what = event.submitter ? event.submitter.value : "found";
    const data = new FormData(form);
    data.set("do", what);
    data.set("at_time", new Date().toISOString()); // when it was seen
    const entries = [...data.entries()];
    refused.hidden = true;
    let response;
    try {
      response = await send(entries);
    } catch {
      if (what === "off") return refuse("No signal: the other phone cannot see it.");
      const tapped = form.querySelectorAll("[name=place]:checked").length > 0;
      if (what === "found" && !form.elements.name.value.trim() && !tapped) {
        return refuse("Tap what went dead, or name it.");
      }
      keep([...kept(), entries]);
      stands(form.elements.c.value, "waits on this phone", false);
      answer.hidden = true;
      return;
    }
    if (response.status !== 200 && response.status !== 422) {
      return refuse("Not kept: the server did not take it. What you typed is still here.");
    }
    const told = await response.json();
    if (!response.ok) {
      document.getElementById("both-line").hidden = what !== "off";
      return refuse(told.sentence);
    }
    if (what === "off") return window.htmx && window.htmx.trigger("#now", "look");
    isKept(Object.fromEntries(entries), told);
    answer.hidden = true;
  });
  window.addEventListener("online", flush);
  setInterval(flush, 15000);
  keep(kept());
  setAside(aside());
  flush();
})();
