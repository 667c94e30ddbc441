// The creeper card: done only by holding; ticks go on without a connection, wait on this device and are sent later, in
// their order, each once; read aloud; a clock; the screen kept awake where the browser allows.
"use strict";

const HOLD_MS = 700; // longer than a sleeve brushing over the glass
const WAIT_MS = 4000;
const AGAIN_MS = 5000;
const QUEUE = "strokes-waiting";

// --- what waits on this device ---------------------------------------------------------------------------------------

let picturesWaiting = []; // as the device keeps them, without the pictures themselves

// One request of the device's own store of pictures: too big for the strokes' list.
function pictures(mode, ask) {
  return new Promise((done, fail) => {
    const open = indexedDB.open("card-pictures", 1);
    open.onupgradeneeded = () => open.result.createObjectStore("pictures", { keyPath: "id", autoIncrement: true });
    open.onerror = () => fail(open.error);
    open.onsuccess = () => {
      const asked = ask(open.result.transaction("pictures", mode).objectStore("pictures"));
      asked.onsuccess = () => { done(asked.result); open.result.close(); };
      asked.onerror = () => { fail(asked.error); open.result.close(); };
    };
  });
}

function waiting() {
  try { return JSON.parse(localStorage.getItem(QUEUE) ?? "[]"); } catch { return []; }
}

function keepWaiting(strokes) {
  localStorage.setItem(QUEUE, JSON.stringify(strokes));
  const line = document.getElementById("waiting");
  line.hidden = strokes.length + picturesWaiting.length === 0;
  const many = strokes.length === 1 ? "1 stroke waits" : `${strokes.length} strokes wait`;
  const pictures = picturesWaiting.length === 1 ? "1 picture waits" : `${picturesWaiting.length} pictures wait`;
  const what = [strokes.length ? many : "", picturesWaiting.length ? pictures : ""].filter(Boolean).join(", ");
  const words = [...strokes, ...picturesWaiting].map((s) => s.words).join(", ");
  line.textContent = `No connection: ${what} on this device (${words}). Sent when it is back.`;
  const last = strokes.filter((s) => s.path === location.pathname && s.fields.piece === card.dataset.piece).at(-1);
  card.classList.toggle("stroke-waits", last !== undefined);
}

let sending = false;

// Sends what waits, oldest first. False while there is no connection.
async function send() {
  if (sending) return false;
  sending = true;
  try {
    for (let strokes = waiting(); strokes.length; strokes = waiting()) {
      const [first, ...rest] = strokes;
      const stop = new AbortController();
      const timer = setTimeout(() => stop.abort(), WAIT_MS);
      let response;
      try {
        response = await fetch(first.path, { method: "POST", body: new URLSearchParams(first.fields), signal: stop.signal });
      } catch {
        return false;
      } finally {
        clearTimeout(timer);
      }
      if (response.status === 401) say("Sign in again: what was ticked waits here and is sent then.");
      if (response.status >= 500 || response.status === 401) return false; // nothing is lost meanwhile
      if (!response.ok) say(`${first.words} was not taken: the piece is not there any more, or the page is too old. Load it again.`);
      keepWaiting(rest);
    }
    return true;
  } finally {
    sending = false;
  }
}

// Sends the pictures that wait, oldest first. False while there is no connection.
async function sendPictures() {
  if (sending) return false;
  sending = true;
  try {
    for (const one of await pictures("readonly", (store) => store.getAll())) {
      const body = new FormData();
      for (const [key, value] of Object.entries(one.fields)) body.set(key, value);
      body.set("picture", one.picture, "picture");
      let response;
      try { response = await fetch(one.path, { method: "POST", body }); } catch { return false; }
      if (response.status >= 500 || response.status === 401) return false;
      const trouble = new URL(response.url).searchParams.get("trouble");
      if (!response.ok || trouble) say(`${one.words} was not taken: ${trouble ?? "the piece is not there any more"}.`);
      await pictures("readwrite", (store) => store.delete(one.id));
      await lookAtPictures();
    }
    return true;
  } finally {
    sending = false;
  }
}

async function lookAtPictures() {
  picturesWaiting = (await pictures("readonly", (store) => store.getAll())).map(({ words }) => ({ words }));
  keepWaiting(waiting());
}

function say(words) {
  const line = document.getElementById("said");
  line.hidden = false;
  line.textContent = words;
}

// --- strokes ---------------------------------------------------------------------------------------------------------

const card = document.getElementById("card");

function nextAddress(outcome, shown) {
  const at = shown + (outcome === "done" ? 1 : 0);
  return `${location.pathname}?run=${encodeURIComponent(card.dataset.run)}&at=${at}`;
}

async function stroke(form, button) {
  const fields = Object.fromEntries(new FormData(form));
  fields.outcome = button.value;
  fields.stroke = crypto.randomUUID();
  if (button.value === "done") fields.seconds = String(seconds());
  const at = Number(fields.at);
  const words = `piece ${at} ${button.dataset.words ?? button.value}`;
  keepWaiting([...waiting(), { path: location.pathname, fields, words }]);
  if (button.value === "done") forgetClock();
  const sent = await send();
  const last = sent ? `&last=${encodeURIComponent(button.value)}&last_at=${at}` : "";
  location.assign(nextAddress(button.value, at) + last);
}

for (const form of document.querySelectorAll("form[data-stroke]")) {
  form.addEventListener("submit", (event) => {
    event.preventDefault();
    stroke(form, event.submitter ?? form.querySelector("button"));
  });
}

document.querySelector(".creeper-photo").addEventListener("submit", async (event) => {
  event.preventDefault();
  const { picture, ...fields } = Object.fromEntries(new FormData(event.target));
  const path = event.target.getAttribute("action");
  await pictures("readwrite", (store) => store.add({ path, fields, picture, words: `piece ${fields.at} picture` }));
  await lookAtPictures();
  event.target.reset();
  if (await sendPictures() && document.getElementById("said").hidden) location.reload();
});

const done = document.getElementById("done");
let timer = 0;

function begin(event) {
  event.preventDefault();
  if (timer) return;
  done.classList.add("holding");
  timer = setTimeout(() => document.getElementById("done-form").requestSubmit(done), HOLD_MS);
}

function leave() {
  clearTimeout(timer);
  timer = 0;
  done.classList.remove("holding");
}

done.addEventListener("pointerdown", begin);
for (const name of ["pointerup", "pointerleave", "pointercancel", "blur"]) done.addEventListener(name, leave);
done.addEventListener("click", (event) => { if (event.detail !== 0 || event.isTrusted && timer) event.preventDefault(); });
done.addEventListener("keydown", (event) => { if (event.key === " " || event.key === "Enter") { event.preventDefault(); if (!event.repeat) begin(event); } });
done.addEventListener("keyup", leave);
done.addEventListener("contextmenu", (event) => event.preventDefault());

addEventListener("keydown", (event) => {
  if (event.key === "ArrowLeft") document.querySelector(".creeper-back")?.click();
});

// --- the clock: how long this piece takes, stopped and gone on ---------------------------------------------------------

const CLOCK = `clock ${location.pathname} ${card.dataset.run} ${card.dataset.piece}`;
const clock = document.getElementById("clock");

function clockState() {
  try { return JSON.parse(localStorage.getItem(CLOCK)) ?? { so_far: 0, since: 0 }; } catch { return { so_far: 0, since: 0 }; }
}

function seconds() {
  const { so_far, since } = clockState();
  return Math.round(so_far + (since ? (Date.now() - since) / 1000 : 0));
}

function forgetClock() { localStorage.removeItem(CLOCK); }

function showClock() {
  const s = seconds();
  clock.textContent = `${Math.floor(s / 60)}:${String(s % 60).padStart(2, "0")} ${clockState().since ? "· stop" : s ? "· go on" : "· start the clock"}`;
}

clock.hidden = false;
clock.addEventListener("click", () => {
  const { since } = clockState();
  localStorage.setItem(CLOCK, JSON.stringify({ so_far: since ? seconds() : clockState().so_far, since: since ? 0 : Date.now() }));
  showClock();
});
setInterval(showClock, 1000);
showClock();

// --- read aloud, only when asked ----------------------------------------------------------------------------------------

const read = document.getElementById("read");
if ("speechSynthesis" in window) {
  read.hidden = false;
  read.addEventListener("click", () => {
    if (speechSynthesis.speaking) { speechSynthesis.cancel(); return; }
    const words = new SpeechSynthesisUtterance(card.dataset.says);
    words.lang = "en";
    speechSynthesis.speak(words);
  });
}

// --- a connection that comes and goes -------------------------------------------------------------------------------------

lookAtPictures();
async function sendAndShow() {
  const strokes = waiting().length > 0, taken = picturesWaiting.length > 0;
  if (strokes && !await send() || taken && !await sendPictures()) return;
  if ((strokes || taken) && document.getElementById("said").hidden) location.reload();
}
addEventListener("online", sendAndShow);
setInterval(sendAndShow, AGAIN_MS);
sendAndShow();

if ("serviceWorker" in navigator) {
  navigator.serviceWorker.register("/card-worker.js", { scope: "/" }).then(() => navigator.serviceWorker.ready).then((ready) => {
    const cards = Array.from({ length: Number(card.dataset.count) }, (_, k) =>
      `${location.origin}${location.pathname}?run=${encodeURIComponent(card.dataset.run)}&at=${k + 1}`);
    const parts = performance.getEntriesByType("resource").map((entry) => entry.name).filter((name) => name.includes("/static/"));
    ready.active.postMessage([...parts, location.href, ...cards]);
  }).catch(() => { /* no worker: the card works with a connection only */ });
}

async function stayAwake() {
  try { await navigator.wakeLock?.request("screen"); } catch { /* refused: the screen may sleep, nothing is lost */ }
}
stayAwake();
document.addEventListener("visibilitychange", () => { if (document.visibilityState === "visible") stayAwake(); });
