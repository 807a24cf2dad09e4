// Work without signal: what is typed or photographed waits in this browser, under its own id, and
// goes up once, in order, when the network is back and the same person is signed in. Without this
// script every form is an ordinary one.
"use strict";

const Waiting = (() => {
  const NAME = "just-loop-waiting";
  const open = () =>
    new Promise((resolve, reject) => {
      const asked = indexedDB.open(NAME, 1);
      asked.onupgradeneeded = () =>
        asked.result.createObjectStore("entries", { keyPath: "order", autoIncrement: true });
      asked.onsuccess = () => resolve(asked.result);
      asked.onerror = () => reject(asked.error);
    });
  const run = async (mode, work) => {
    const base = await open();
    try {
      return await new Promise((resolve, reject) => {
        const change = base.transaction("entries", mode);
        const asked = work(change.objectStore("entries"));
        change.oncomplete = () => resolve(asked && asked.result);
        change.onerror = () => reject(change.error);
        change.onabort = () => reject(change.error);
      });
    } finally {
      base.close();
    }
  };
  return {
    all: () => run("readonly", (store) => store.getAll()),
    add: (entry) => run("readwrite", (store) => store.add(entry)),
    put: (entry) => run("readwrite", (store) => store.put(entry)),
    drop: (order) => run("readwrite", (store) => store.delete(order)),
  };
})();

(() => {
  const person = document.body.dataset.person || "";
  const list = document.getElementById("waiting-list");
  const LARGE = 2400; // px: what is sent of a photo, at most
  const PATIENCE = 15000; // ms
  const NOT_TAKEN = {
    0: "The server did not take it.",
    403: "Refused: you may not change this job any more.",
    404: "Refused: that job or part is not there for you any more.",
    413: "Refused: it is too large.",
  };

  // A photo is shrunk before it waits: a phone's is 4 to 12 MB.
  const shrunk = async (file) => {
    try {
      const image = await createImageBitmap(file, { imageOrientation: "from-image" });
      const scale = Math.min(1, LARGE / Math.max(image.width, image.height));
      const canvas = document.createElement("canvas");
      canvas.width = Math.round(image.width * scale);
      canvas.height = Math.round(image.height * scale);
      canvas.getContext("2d").drawImage(image, 0, 0, canvas.width, canvas.height);
      const made = await new Promise((resolve) => canvas.toBlob(resolve, "image/jpeg", 0.88));
      return made && made.size < file.size ? made : file;
    } catch {
      return file; // the server says what is wrong with it
    }
  };

  const entryOf = async (form, submitter) => {
    const fields = [];
    const files = [];
    for (const [name, value] of new FormData(form).entries()) {
      if (value instanceof File) {
        if (value.size) files.push([name, await shrunk(value), value.name]);
      } else if (name !== "csrfmiddlewaretoken") fields.push([name, value]);
    }
    if (submitter && submitter.name) fields.push([submitter.name, submitter.value]);
    const value = (name) => (form.elements[name] ? form.elements[name].value.trim() : "");
    const asked = value("number") && `${value("ask")} ${value("number")}`;
    const shown = value("text") || asked || value("seen_by") || value("because");
    const photos = files.length ? `${files.length} photo${files.length > 1 ? "s" : ""}` : "";
    const words = [form.dataset.queue, shown, photos].filter(Boolean).join(": ");
    return {
      id: crypto.randomUUID(), url: form.getAttribute("action"), fields, files, person, words,
      at: new Date().toISOString(), problem: "",
    };
  };

  const send = async (entry, token, isNow) => {
    const body = new FormData();
    for (const [name, value] of entry.fields) body.append(name, value);
    for (const [name, blob, called] of entry.files) body.append(name, blob, called || "photo.jpg");
    body.append("client_id", entry.id);
    body.append("at_time", entry.at);
    body.append("now_time", new Date().toISOString()); // the server takes this clock's error out
    return fetch(entry.url, {
      method: "POST", body, credentials: "same-origin", redirect: "error",
      headers: {
        "X-Queued": isNow ? "now" : "1", "X-CSRFToken": token,
        "X-Person": encodeURIComponent(entry.person), // whoever else is signed in does not send it
      },
      signal: AbortSignal.timeout(entry.files.length ? 4 * PATIENCE : PATIENCE),
    });
  };

  // Who is signed in, and a fresh token. An expired or another person's sign-in keeps the queue.
  const ready = async () => {
    const response = await fetch("/field/ready", {
      credentials: "same-origin", redirect: "error", signal: AbortSignal.timeout(PATIENCE),
    });
    if (!response.ok) throw new Error("not signed in");
    return response.json();
  };

  // Sends what waits, the oldest first, once each, in one page at a time. Gives the last answer.
  const sendAll = (pressed) =>
    navigator.locks.request("just-loop-waiting", async () => {
      const waiting = (await Waiting.all()).filter((entry) => !entry.problem);
      if (!waiting.length) return null;
      let who;
      try {
        who = await ready();
      } catch {
        return { lost: true };
      }
      let last = null;
      for (const entry of waiting) {
        if (entry.person !== who.person) {
          last = { other: entry.person };
          continue;
        }
        let response;
        try {
          response = await send(entry, who.token, entry.order === pressed);
        } catch {
          return { lost: true };
        }
        if (response.status >= 500 || response.status === 429) return { lost: true };
        // What is refused is set aside with its reason until a person decides; the rest goes on.
        const told = await response.json().catch(() => ({ problem: NOT_TAKEN[response.status] || NOT_TAKEN[0] }));
        if (response.ok) await Waiting.drop(entry.order);
        else await Waiting.put({ ...entry, problem: told.problem || NOT_TAKEN[0] });
        last = { ...told, ok: response.ok, id: entry.id, order: entry.order };
      }
      return last;
    });

  const button = (words, act) => {
    const made = document.createElement("button");
    made.type = "button";
    made.className = "act-quiet small";
    made.textContent = words;
    made.addEventListener("click", act);
    return made;
  };

  const line = (entry) => {
    const row = document.createElement("li");
    const said = document.createElement("span");
    const mine = entry.person === person;
    const state = entry.problem || (mine ? "waiting" : `waits for ${entry.person} to sign in`);
    said.textContent = `${entry.words} · ${state}`;
    if (entry.problem) said.className = "error";
    row.append(said);
    if (entry.problem && mine) {
      row.append(button("Send again", async () => {
        await Waiting.put({ ...entry, problem: "" });
        await flush();
      }));
    }
    if (mine) {
      row.append(button("Throw away", async () => {
        if (!window.confirm("It was not sent. Throw it away?")) return;
        await Waiting.drop(entry.order);
        await show();
      }));
    }
    return row;
  };

  const show = async () => {
    const waiting = await Waiting.all();
    document.body.dataset.waiting = String(waiting.length);
    for (const box of document.querySelectorAll(".sign-form [name=waiting]")) box.value = waiting.length;
    if (!list) return;
    list.hidden = waiting.length === 0;
    list.querySelector("ul").replaceChildren(...waiting.map(line));
  };

  const flush = async () => {
    const before = (await Waiting.all()).length;
    const last = before ? await sendAll() : null;
    await show();
    return last;
  };

  const refuse = (form, words) => {
    let told = form.querySelector(".field-error.queued");
    if (!told) {
      told = document.createElement("p");
      told.className = "field-error error queued";
      told.setAttribute("role", "alert");
      form.append(told);
    }
    told.textContent = words;
  };

  // Every form that may wait: first into the queue, then up.
  document.addEventListener("submit", (event) => {
    const form = event.target.closest("form[data-queue]");
    if (!form || (event.submitter && "now" in event.submitter.dataset) || !navigator.locks) return;
    if (form.dataset.signal) {  // never from a queue
      if (!navigator.onLine) {
        event.preventDefault();
        refuse(form, form.dataset.signal);
      }
      return;
    }
    event.preventDefault();
    event.stopImmediatePropagation();
    const submitter = event.submitter;
    const work = async () => {
      const entry = await entryOf(form, submitter);
      entry.order = await Waiting.add(entry);
      const last = await sendAll(entry.order);
      if (last && last.id === entry.id && !last.ok) {
        await Waiting.drop(entry.order); // it is still in the form
        refuse(form, last.problem);
      } else if (last && last.id === entry.id && last.then) {
        window.location.assign(last.then);
        return;
      } else {
        form.reset();
        const box = form.elements.text;
        if (box) box.value = "";
        next(form);
      }
      await show();
    };
    work().catch(() => refuse(form, "This browser keeps nothing; send it where there is a signal."));
  }, true);

  // A procedure goes on in the page: the step that waits is closed, the next one opened.
  const nextStep = (form) => {
    const here = form.closest("li");
    const there = here.nextElementSibling;
    here.className = "done";
    form.closest(".step-card").replaceChildren(document.createTextNode("Waits on this phone."));
    const card = there && there.querySelector(".later-card");
    if (!card) return;
    card.hidden = false;
    there.className = "now";
    there.scrollIntoView({ block: "start" });
  };

  // Without signal the walk goes on in the page itself: the next place is put into the box.
  const fill = (link) => {
    const box = document.getElementById("number");
    if (!box) return;
    document.getElementById("ask").value = link.dataset.fill;
    document.getElementById("ask-label").textContent = link.dataset.label;
    const heading = document.getElementById("log-h");
    if (heading) heading.textContent = `Read next: ${link.textContent}`;
    box.disabled = false;
    box.value = "";
    box.focus();
  };
  const next = (form) => {
    if (form.matches(".tick-form")) return nextStep(form);
    if (!form.matches(".log-form")) return;
    const rows = [...document.querySelectorAll("[data-fill]")];
    const at = rows.findIndex((row) => row.closest("li.current"));
    if (at < 0) return;
    rows[at].closest("li").classList.remove("current");
    const then = rows.slice(at + 1).find((row) => !row.closest("li").querySelector("strong"));
    if (!then) return;
    then.closest("li").classList.add("current");
    fill(then);
  };
  document.addEventListener("click", (event) => {
    const link = event.target.closest("[data-fill]");
    if (!link || navigator.onLine || event.ctrlKey || event.metaKey) return;
    event.preventDefault();
    for (const row of document.querySelectorAll("li.current")) row.classList.remove("current");
    if (link.closest("li")) link.closest("li").classList.add("current");
    fill(link);
  });

  // Keep this job's pages on this phone.
  const keeper = document.getElementById("keep-here");
  const said = document.getElementById("keep-said");
  const worker = async () => {
    await navigator.serviceWorker.register("/sw.js", { scope: "/" });
    return (await navigator.serviceWorker.ready).active;
  };
  const ask = async (paths) => {
    const active = await worker();
    return new Promise((resolve) => {
      const line = new MessageChannel();
      line.port1.onmessage = (event) => resolve(event.data);
      active.postMessage({ keep: paths }, [line.port2]);
    });
  };
  if (keeper) {
    const able = window.isSecureContext && "serviceWorker" in navigator;
    keeper.hidden = !able;
    if (!able) said.textContent = "Without signal this works only over HTTPS or on this machine itself.";
    keeper.addEventListener("click", async () => {
      said.textContent = "Keeping…";
      const paths = keeper.dataset.paths.split(" ");
      const count = await ask(paths).catch(() => 0);
      said.textContent = count === paths.length
        ? "Kept on this phone: the log, the test sheet and finding circuits open without signal."
        : `Only ${count} of ${paths.length} pages could be kept; try again where the signal is good.`;
      localStorage.setItem("kept-for", person);
    });
  }

  // Pages kept for somebody else are not shown to this one.
  const forget = () => window.caches && window.caches.delete("just-loop-pages");
  if (person && localStorage.getItem("kept-for") && localStorage.getItem("kept-for") !== person) {
    forget();
    localStorage.removeItem("kept-for");
  }
  document.addEventListener("submit", (event) => {
    if (event.target.getAttribute("action") === "/sign-out") forget();
  });

  // Nothing is read back while there is no signal: what is typed waits as it is.
  document.addEventListener("htmx:before:request", (event) => {
    if (!navigator.onLine) event.preventDefault();
  });
  window.addEventListener("online", flush);
  setInterval(flush, 20000);
  show().then(flush).catch(() => {});
})();
