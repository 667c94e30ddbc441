// Keeps creeper cards at hand: what was loaded once is shown again without a connection. It never answers for the server:
// with a connection the server's own page is shown.
"use strict";

const KEPT = "cards-1";
const WAIT_MS = 3000; // a lift is at the edge of the shop's net: longer than this is as good as none
const CARD = /^\/jobs\/\d+\/cut\/card$/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

function plain(address) {
  const url = new URL(address);
  for (const name of ["last", "last_at", "ask", "what", "by", "error", "trouble"]) url.searchParams.delete(name);
  return url.href;
}

async function fetched(request) {
  const stop = new AbortController();
  const timer = setTimeout(() => stop.abort(), WAIT_MS);
  try {
    return await fetch(request, { signal: stop.signal });
  } finally {
    clearTimeout(timer);
  }
}

async function keep(address, response) {
  if (response.ok && !response.redirected) await (await caches.open(KEPT)).put(plain(address), response.clone());
  return response;
}

async function answer(request) {
  try {
    return await keep(request.url, await fetched(request));
  } catch {
    const kept = await (await caches.open(KEPT)).match(plain(request.url));
    return kept ?? Response.error();
  }
}

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== location.origin) return;
  if (CARD.test(url.pathname) || url.pathname.startsWith("/static/")) event.respondWith(answer(event.request));
});

// The run's other cards, so that the next one is there when the connection is not: in the order they come, so that a card
// that is kept has its scripts and the cards before it.
async function keepAll(addresses) {
  for (const address of addresses) {
    try { await keep(address, await fetch(address, { credentials: "same-origin" })); } catch { return; /* later, then */ }
  }
}

self.addEventListener("message", (event) => event.waitUntil(keepAll(event.data)));
