// The browser draws what the server computed. This file only carries gestures to the server: keys, steps in a burst,
// the cursor, choosing on a strip. It holds no rule of the trade and no figure of its own.
"use strict";

const BURST_MS = 260; // presses this close together become one edit, so one revision

const bench = () => document.getElementById("bench");
const byId = (id) => document.getElementById(id);

// --- width: the server lays labels out in real pixels -------------------------------------------------------------

function tellWidth() {
  const frame = document.querySelector(".strips-frame");
  if (!frame) return;
  const width = Math.floor(frame.clientWidth);
  const drawn = Number(frame.querySelector("svg")?.getAttribute("width") || 0);
  if (Math.abs(width - drawn) > 4 && width > 300) {
    document.cookie = `${frame.dataset.width || "w"}=${width}; path=/; max-age=31536000; samesite=strict`;
    // only the strips are drawn again: what is being typed beside them stays
    window.htmx.ajax("GET", location.pathname + location.search, { target: ".strips-card", select: ".strips-card", swap: "outerHTML" }).catch(() => { /* told below: htmx:sendError */ });
  }
}

let resizeTimer = 0;
addEventListener("resize", () => { clearTimeout(resizeTimer); resizeTimer = setTimeout(tellWidth, 200); });

// --- one request after another ---------------------------------------------------------------------------------------
// Edits wait for each other and none is dropped; of looks (another piece, another stretch) that wait only the last counts.
// Each is taken down as plain values when it is made: the form it came from may be drawn again before its turn.

const waiting = [];
let underWay = false;

function valuesOf(form, button) {
  const values = {};
  for (const [key, value] of new FormData(form, button || undefined)) {
    if (key in values) values[key] = [].concat(values[key], value);
    else values[key] = value;
  }
  return values;
}

function edit(form, values) {
  form.dataset.sent = "yes";
  enqueue({ verb: "POST", url: form.action, values, from: form });
}

function look(url, from) {
  const last = waiting.at(-1);
  if (last?.verb === "GET") waiting.pop();
  enqueue({ verb: "GET", url, from });
}

function enqueue(request) {
  const near = (name, otherwise) => request.from?.closest(`[${name}]`)?.getAttribute(name) || otherwise;
  waiting.push({ ...request, target: near("hx-target", "#bench"), swap: near("hx-swap", "innerHTML"), busy: near("hx-indicator", "") });
  run();
}

async function run() {
  if (underWay) return;
  underWay = true;
  while (waiting.length) {
    const { verb, url, values, target, swap, busy } = waiting.shift();
    const shown = busy ? document.querySelector(busy) : null;
    shown?.classList.add("htmx-request");
    try {
      if (document.querySelector(target)) await window.htmx.ajax(verb, url, { source: "#said", target, swap, values });
    } catch { /* told below: htmx:sendError */ }
    shown?.classList.remove("htmx-request");
  }
  underWay = false;
}

document.addEventListener("submit", (event) => {
  const form = event.target.closest?.("form[hx-post]:not([hx-encoding]):not([hx-trigger])");
  if (!form) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  send(); // steps that were pressed before come first
  if (form.reportValidity()) edit(form, valuesOf(form, event.submitter));
}, true);

document.addEventListener("click", (event) => {
  const link = event.target.closest?.("a[hx-get]:not([hx-trigger])");
  if (!link || event.ctrlKey || event.metaKey || event.shiftKey || event.button) return;
  event.preventDefault();
  event.stopImmediatePropagation();
  send();
  look(link.getAttribute("hx-get"), link);
}, true);

document.addEventListener("change", (event) => {
  const form = event.target.form;
  if (form?.getAttribute("hx-trigger") !== "change" || !form.hasAttribute("hx-post")) return;
  event.stopImmediatePropagation();
  edit(form, valuesOf(form));
}, true);

// --- what is typed and not entered yet stays when the bench is drawn again ---------------------------------------------

let typed = [];

function nameOf(field) {
  const state = new Set(["csrf_token", "rev", "tab", "from_mm", "to_mm", "cursor", "then"]);
  const hidden = [...field.form.querySelectorAll("input[type=hidden]")].filter((one) => !state.has(one.name));
  return [field.form.getAttribute("action"), ...hidden.map((one) => `${one.name}=${one.value}`), field.name].join("|");
}

const fieldsOf = (root) => [...root.querySelectorAll("form input:not([type=hidden]):not([type=file]), form textarea")].filter((field) => field.name);

document.addEventListener("htmx:beforeSwap", (event) => {
  const target = event.detail.target;
  if (!target?.querySelectorAll) return;
  if (target.id === "trouble") {
    // it was not entered: what is typed there is typed still
    document.querySelectorAll("form[data-sent]").forEach((form) => delete form.dataset.sent);
    return;
  }
  byId("trouble")?.replaceChildren();
  typed = fieldsOf(target).filter((field) => !field.form.dataset.sent && !/checkbox|radio/.test(field.type) && field.value !== field.defaultValue)
    .map((field) => ({ name: nameOf(field), value: field.value }));
});

document.addEventListener("htmx:afterSwap", (event) => {
  const now = event.target;
  if (!typed.length || !now?.querySelectorAll) return;
  const kept = new Map(typed.map((one) => [one.name, one.value]));
  typed = [];
  for (const field of fieldsOf(now)) if (kept.has(nameOf(field))) field.value = kept.get(nameOf(field));
});

// --- Back and reload find the place again ------------------------------------------------------------------------------

document.addEventListener("htmx:afterSwap", (event) => {
  const place = event.target.id === "bench" && event.target.querySelector("[data-place]")?.dataset.place;
  if (place) history.replaceState(null, "", place);
});

// --- steppers: a burst of presses is one edit ----------------------------------------------------------------------

const pending = { form: null, steps: 0, timer: 0 };

function press(form, steps, button) {
  if (pending.form && pending.form !== form) send();
  pending.form = form;
  pending.steps += steps;
  const shown = button || form.querySelector(`[data-step="${steps > 0 ? 1 : -1}"]`);
  form.querySelectorAll("[data-step]").forEach((b) => b.removeAttribute("data-pending"));
  shown?.setAttribute("data-pending", (pending.steps > 0 ? "+" : "") + pending.steps);
  clearTimeout(pending.timer);
  pending.timer = setTimeout(send, BURST_MS);
}

function send() {
  const { form, steps } = pending;
  clearTimeout(pending.timer);
  pending.form = null;
  pending.steps = 0;
  if (!form || steps === 0) return;
  const values = valuesOf(form);
  delete values.value;
  values.step = String(steps);
  edit(form, values);
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-step]");
  if (button) {
    event.preventDefault();
    event.stopPropagation();
    press(button.form, Number(button.dataset.step), button);
  }
}, true);

function enter(field) {
  // a value that was only looked at is no edit, and one that was entered is entered once
  if (field.value === field.defaultValue || field.dataset.left) return;
  field.dataset.left = "yes";
  edit(field.form, valuesOf(field.form));
}

document.addEventListener("keydown", (event) => {
  // Enter in a stepper's field keeps what is typed, and does not press the minus button before it
  const field = event.target.closest?.(".stepper input");
  if (field && event.key === "Enter") {
    event.preventDefault();
    enter(field);
  }
}, true);

document.addEventListener("change", (event) => {
  const field = event.target.closest?.(".stepper input");
  if (field) enter(field);
});

// --- strips: choose a piece, move the cursor, drag along the ruler --------------------------------------------------

function stationAt(event, svg) {
  const box = svg.getBoundingClientRect();
  const low = Number(svg.dataset.low), high = Number(svg.dataset.high);
  const share = (event.clientX - box.left) / box.width;
  return svg.dataset.turned === "yes" ? high - share * (high - low) : low + share * (high - low);
}

let sliceTimer = 0;
const drag = { from: null, low: 0, high: 0 };

document.addEventListener("pointerdown", (event) => {
  const svg = event.target.closest?.("svg.strips");
  if (svg && event.button === 0) Object.assign(drag, { from: event.clientX, svg, moved: false });
});

document.addEventListener("pointermove", (event) => {
  if (drag.from !== null && Math.abs(event.clientX - drag.from) > 6) {
    drag.moved = true;
    drag.svg.style.transform = `translateX(${event.clientX - drag.from}px)`;
    return;
  }
  const svg = event.target.closest?.("svg.strips");
  const cursor = byId("cursor");
  if (!svg || !cursor || event.pointerType !== "mouse") return;
  moveCursor(event, svg, cursor);
});

function moveCursor(event, svg, cursor) {
  const x = event.clientX - svg.getBoundingClientRect().left;
  cursor.setAttribute("x1", x);
  cursor.setAttribute("x2", x);
  const station = stationAt(event, svg);
  clearTimeout(sliceTimer);
  sliceTimer = setTimeout(() => {
    const frame = byId("strips-frame");
    // a slice of its own source: it replaces the one before and never stands in the way of an edit
    if (frame) window.htmx.ajax("GET", `${frame.dataset.slice}${frame.dataset.slice.includes("?") ? "&" : "?"}cursor=${station.toFixed(1)}`, { source: "#slice", target: "#slice", swap: "innerHTML" }).catch(() => { /* overtaken by another look */ });
  }, 70);
}

document.addEventListener("pointerup", (event) => {
  if (drag.from === null) return;
  const { svg, from, moved } = drag;
  drag.from = null;
  if (!moved) {
    const piece = event.target.closest?.("[data-piece]");
    const frame = byId("strips-frame");
    const part = event.target.closest?.("[data-part]");
    const shown = `&from_mm=${svg.dataset.low}&to_mm=${svg.dataset.high}`;
    if (part && frame?.dataset.choosePart) look(`${frame.dataset.choosePart}&part=${encodeURIComponent(part.dataset.part)}${shown}`);
    else if (piece && frame) look(`${frame.dataset.choose}&piece=${piece.dataset.piece}`);
    else if (byId("cursor")) moveCursor(event, svg, byId("cursor"));
    return;
  }
  const width = svg.getBoundingClientRect().width;
  const low = Number(svg.dataset.low), high = Number(svg.dataset.high);
  const sign = svg.dataset.turned === "yes" ? 1 : -1;
  const shift = sign * (event.clientX - from) / width * (high - low);
  const link = byId("sight-fit");
  const url = new URL(link.getAttribute("hx-get"), location.href);
  url.searchParams.delete("sight");
  url.searchParams.set("from_mm", low + shift);
  url.searchParams.set("to_mm", high + shift);
  look(url.pathname + url.search);
});
addEventListener("pointercancel", () => { if (drag.svg) drag.svg.style.transform = ""; drag.from = null; });

// --- keys ------------------------------------------------------------------------------------------------------------

const singleKeysOff = () => localStorage.getItem("single-keys") === "off";

function atTheWork() {
  const focus = document.activeElement;
  return focus === document.body || !!focus?.closest?.("#line-up, .strips-card, .sight");
}

function walk(step) {
  const tiles = [...document.querySelectorAll("#line-up .tile")];
  const at = tiles.findIndex((t) => t.classList.contains("chosen"));
  const next = tiles[Math.min(Math.max(at + step, 0), tiles.length - 1)];
  if (next && next !== tiles[at]) { wantFocus = next.id; next.click(); }
}

let wantFocus = "";

function stepFirst(steps) {
  const field = document.querySelector("[data-first]");
  const tile = document.querySelector("#line-up .tile.chosen");
  if (tile) wantFocus = tile.id;
  if (field && !field.disabled) press(field.form, steps);
}

const SINGLE = {
  ArrowLeft: () => walk(-1), ArrowRight: () => walk(1),
  ArrowUp: (e) => stepFirst(e.shiftKey ? 15 : 1), ArrowDown: (e) => stepFirst(e.shiftKey ? -15 : -1),
  b: () => byId("add-bend")?.click(), s: () => byId("add-leg")?.click(), c: () => byId("close-it")?.click(),
  Delete: () => byId("take-out")?.click(),
};

addEventListener("keydown", (event) => {
  const typing = event.target.matches?.("input, textarea, select");
  if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
    event.preventDefault();
    byId(event.shiftKey ? "redo" : "undo")?.click();
    return;
  }
  if (typing) {
    if (event.key === "Escape") { event.target.dataset.left = "yes"; event.target.value = event.target.defaultValue; event.target.blur(); document.querySelector("#line-up .tile.chosen")?.focus(); }
    return;
  }
  if (event.ctrlKey || event.metaKey || event.altKey || singleKeysOff() || byId("keys")?.open) return;
  if (event.key === "?") { byId("keys")?.showModal(); return; }
  if (!atTheWork()) return;
  if (/^[0-9]$/.test(event.key)) {
    const field = document.querySelector("[data-first]");
    if (field && !field.disabled) { field.focus(); field.value = ""; }
    return;
  }
  const act = SINGLE[event.key];
  if (act) { event.preventDefault(); act(event); }
});

// a strip that was dragged along goes back before it is replaced: its style must not be copied onto the new one
document.addEventListener("htmx:beforeSwap", () => {
  document.querySelectorAll("svg.strips[style]").forEach((svg) => svg.removeAttribute("style"));
});

// --- after each answer --------------------------------------------------------------------------------------------------

document.addEventListener("htmx:afterSwap", (event) => {
  if (event.target.id !== "bench") return;
  if (wantFocus) { byId(wantFocus)?.focus({ preventScroll: true }); wantFocus = ""; }
  // the one live region: what was entered, then the worst of what is found now; alerts speak for themselves
  const now = [".notice.done", ".worst-words"].map((one) => document.querySelector(one)?.textContent ?? "");
  byId("said").textContent = now.join(" ").trim().replace(/\s+/g, " ");
});

document.addEventListener("htmx:sendError", () => {
  document.querySelectorAll("form[data-sent]").forEach((form) => delete form.dataset.sent);
  const told = document.createElement("section");
  told.className = "notice wrong";
  told.setAttribute("role", "alert");
  told.textContent = "The program does not answer. What you entered is still on this page; start it again and repeat the last change.";
  byId("trouble")?.replaceChildren(told);
});

// --- forms that show the fields of the chosen shape ---------------------------------------------------------------------

document.addEventListener("change", (event) => {
  if (event.target.matches?.("[data-shape]")) {
    document.querySelectorAll(".shape-fields").forEach((set) => {
      const here = set.dataset.for === event.target.value;
      set.classList.toggle("hidden", !here);
      set.disabled = !here;
    });
  }
  if (event.target.id === "keys-off") localStorage.setItem("single-keys", event.target.checked ? "off" : "on");
});

// --- fields that belong to one way only -------------------------------------------------------------------------------

document.addEventListener("change", (event) => {
  if (!event.target.matches?.("[data-switch]")) return;
  event.target.form.querySelectorAll("[data-only]").forEach((field) => {
    field.hidden = !field.dataset.only.split("|").includes(event.target.value);
  });
});

addEventListener("DOMContentLoaded", () => {
  tellWidth();
  document.querySelector("[data-armed]")?.click(); // nothing is placed yet: the first tap says where
  const off = byId("keys-off");
  if (off) off.checked = singleKeysOff();
});
