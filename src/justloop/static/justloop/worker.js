// Keeps the pages of a job that somebody chose to keep, and what they are drawn with, so that they
// open where there is no signal. It sends nothing: what is typed waits in the page's own queue.
"use strict";

const PAGES = "just-loop-pages";
const STATIC = "just-loop-static";
const PATIENCE = 6000; // ms a page waits for the network before the kept one is shown

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

const isStatic = (url) => url.pathname.startsWith("/static/");

// A page stands under its path, the slots before cover apart: a place chosen on it is the page's
// own script's work.
const keyOf = (url) =>
  url.searchParams.get("show") === "cover" ? `${url.pathname}?show=cover` : url.pathname;
const keepPage = async (path, response) => {
  const isPage = (response.headers.get("content-type") || "").startsWith("text/html");
  if (!response.ok || response.redirected || !isPage) return false;
  const pages = await caches.open(PAGES);
  await pages.put(path, response.clone());
  return true;
};

// What a page or a sheet names: scripts, styles, fonts.
const named = (text) =>
  [...text.matchAll(/(?:href|src)="(\/static\/[^"]+)"|url\(["']?([^"')]+)["']?\)/g)]
    .map((found) => found[1] || found[2])
    .filter((name) => name && !name.startsWith("data:"));

const keepStatic = async (base, text) => {
  const store = await caches.open(STATIC);
  for (const name of named(text)) {
    const url = new URL(name, base);
    if (!isStatic(url) || (await store.match(url.href))) continue;
    const response = await fetch(url.href);
    if (!response.ok) continue;
    await store.put(url.href, response.clone());
    if (url.pathname.endsWith(".css")) await keepStatic(url.href, await response.text());
  }
};

const keepAll = async (paths) => {
  let count = 0;
  for (const path of paths) {
    const response = await fetch(path, { credentials: "same-origin" });
    const text = await response.clone().text();
    if (await keepPage(keyOf(new URL(response.url)), response)) count += 1;
    await keepStatic(response.url, text);
  }
  return count;
};

self.addEventListener("message", (event) => {
  if (!event.data || event.data.keep === undefined) return;
  const done = keepAll(event.data.keep)
    .catch(() => 0)
    .then((count) => event.ports[0] && event.ports[0].postMessage(count));
  event.waitUntil(done);
});

const fromStatic = async (request) => {
  const store = await caches.open(STATIC);
  const found = await store.match(request.url);
  return found || fetch(request);
};

const none = (paths) =>
  new Response(
    `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport"
content="width=device-width, initial-scale=1"><title>No signal</title><h1>No signal</h1><p>This page is not
kept on this phone. Kept are:</p><ul>${paths.map((path) => `<li><a href="${path}">${path}</a></li>`).join("")}</ul></html>`,
    { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } },
  );

const fromPages = async (request) => {
  const path = keyOf(new URL(request.url));
  const pages = await caches.open(PAGES);
  const kept = await pages.match(path);
  const network = fetch(request);
  if (!kept) {
    try {
      return await network;
    } catch {
      const known = (await pages.keys()).map((one) => keyOf(new URL(one.url)));
      return none(known);
    }
  }
  let timer;
  const late = new Promise((resolve) => { timer = setTimeout(() => resolve(null), PATIENCE); });
  try {
    const response = await Promise.race([network, late]);
    if (!response) return kept;
    await keepPage(path, response.clone());
    return response;
  } catch {
    return kept;
  } finally {
    clearTimeout(timer);
  }
};

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== self.location.origin) return;
  if (isStatic(url)) event.respondWith(fromStatic(event.request));
  else if (event.request.mode === "navigate") event.respondWith(fromPages(event.request));
});
