// Taking hold of things, or of a pipe's corners, in the strips and the slice: choose, drag, stretch. Only pixels are told to the server; what
// they mean, and what they snap to, it says itself.
"use strict";

const LEAST_PX = 5; // less than this is a tap
const SIGN_PX = 8; // a handle's own square
const hold = { id: 0, svg: null, thing: "", handle: "", view: "", x: 0, y: 0, parts: [], moved: false };

// SVG pixels for a distance on the screen: the picture may be shrunk to fit
function pxOf(svg) {
  const box = svg.getBoundingClientRect();
  return (svg.viewBox.baseVal.width || box.width) / box.width;
}

function viewOf(target) {
  return target.closest("svg.slice") ? "slice" : target.closest("[data-view]")?.dataset.view || "below";
}

// --- drawing a thing in: a stroke across a strip ----------------------------------------------------------------------

const stroke = { id: 0, strip: null, from: null, to: null, drawn: null };
const taps = []; // of a tool that takes several
const drawing = () => document.querySelector("[data-draw][aria-pressed=true]");

document.addEventListener("click", (event) => {
  const tool = event.target.closest?.("[data-draw]");
  if (!tool) return;
  const on = tool.getAttribute("aria-pressed") !== "true";
  document.querySelectorAll("[data-draw]").forEach((one) => one.setAttribute("aria-pressed", String(on && one === tool)));
  document.querySelector("svg.strips")?.classList.toggle("drawing", on);
  document.querySelector("svg.strips")?.classList.remove("second");
  taps.length = 0;
  just.thing = "";
  hint(on ? tool : null);
});

const HOW = { 0: "a stroke across a strip", 1: "a tap in the strip from the left", 2: "a tap from below, then one from the left" };

function hint(tool) {
  const said = document.getElementById("draw-hint");
  if (said) said.textContent = tool && !tool.dataset.pointUrl ? (taps.length ? "and now in the other strip" : HOW[tool.dataset.taps ?? 0]) : "";
}

document.addEventListener("keydown", (event) => {
  if (event.key === "Escape" && drawing()) { endStroke(); drawing().click(); }
});

// strips that are drawn again for another width leave the tool in hand
let inHand = -1;
document.addEventListener("htmx:beforeSwap", (event) => {
  if (event.detail.target?.matches?.(".strips-card")) inHand = [...document.querySelectorAll("[data-draw]")].indexOf(drawing());
});
document.addEventListener("htmx:afterSettle", () => {
  const tool = document.querySelectorAll("[data-draw]")[inHand];
  inHand = -1;
  if (tool?.getAttribute("aria-pressed") === "true") document.querySelector("svg.strips")?.classList.add("drawing");
  else tool?.click();
});

function placeOf(event, svg) {
  const box = svg.getBoundingClientRect(), k = pxOf(svg);
  return { x: (event.clientX - box.left) * k, y: (event.clientY - box.top) * k };
}

function endStroke() {
  stroke.drawn?.remove();
  stroke.strip = stroke.drawn = null;
}

const svgPart = (name, css) => {
  const part = document.createElementNS("http://www.w3.org/2000/svg", name);
  part.setAttribute("class", css);
  return part;
};

document.addEventListener("pointerdown", (event) => {
  const svg = document.querySelector("svg.strips.drawing");
  const strip = svg && event.target.closest?.("svg.strips [data-view]");
  if (!strip || event.button !== 0 || stroke.strip) return;
  if (just.thing && pulls(event)) return; // what was just drawn may be pulled, too
  event.stopImmediatePropagation();
  event.preventDefault();
  const at = placeOf(event, svg);
  if (drawing().dataset.pointUrl) { pointAt(at, strip, svg); return; }
  if (drawing().dataset.taps) { tapAt(at, strip); return; }
  Object.assign(stroke, { id: event.pointerId, strip, from: at, to: at, drawn: svgPart("g", "") });
  stroke.drawn.append(svgPart(drawing().dataset.draw === "box" ? "rect" : "line", "drawn-now"), svgPart("text", "drawn-size"));
  strip.append(stroke.drawn);
  if (event.isTrusted) svg.setPointerCapture(event.pointerId);
}, true);

// whether a press while a span is waited for is on the very sign of a handle of that span: near it, it is a stroke
function pulls(event) {
  const handle = event.target.closest("[data-handle]");
  if (!handle || handle.dataset.handle.startsWith("x")) return false;
  const box = handle.getBoundingClientRect();
  return Math.hypot(event.clientX - box.x - box.width / 2, event.clientY - box.y - box.height / 2) < SIGN_PX;
}

function tapAt(at, strip) {
  const tool = drawing(), { view, top, height, middle } = strip.dataset;
  taps.push({ x: at.x.toFixed(2), y: at.y.toFixed(2), view, top, height, middle });
  const dot = svgPart("circle", "drawn-now");
  Object.entries({ cx: at.x, cy: at.y, r: 5 }).forEach(([key, value]) => dot.setAttribute(key, value));
  strip.append(dot);
  hint(tool);
  if (taps.length >= Number(tool.dataset.taps)) putIn(tool, taps.splice(0));
}

// what was drawn goes to the server: one or two ends, each with the strip it is on
function putIn(tool, ends) {
  const form = document.getElementById("drag-form");
  const other = just.thing && just.view !== ends[0].view; // its span in the other strip, not one more
  const values = { ...Object.fromEntries(new FormData(form)), shape: tool.dataset.draw, of: other ? just.thing : "" };
  ends.forEach((end, k) => Object.entries(end).forEach(([key, value]) => { values[`${key}${k}`] = value; }));
  Object.assign(just, { next: true, tool: tool.dataset.taps || other ? "" : tool.dataset.draw, view: ends[0].view, thing: "" });
  enqueue({ verb: "POST", url: tool.parentElement.dataset.drawUrl, values, from: form }); // app.js: one after another
}

// what was just drawn wants its span in the other strip, and a name; settled, or the strips' classes are set back
const just = { next: false, tool: "", view: "", thing: "" };

document.addEventListener("htmx:afterSettle", (event) => {
  if (event.target.id !== "bench") return;
  const { next, tool } = just;
  Object.assign(just, { next: false, tool: "", thing: "" });
  const field = next && document.querySelector(".notice.done") && document.querySelector(".taped-name");
  if (!field) return;
  if (tool) {
    document.querySelector(`[data-draw="${tool}"]`).click();
    just.thing = field.form.elements.thing.value;
    document.querySelector("svg.strips").classList.add("second");
    document.getElementById("draw-hint").textContent = "now how far it goes in the other strip, or its name";
  }
  field.focus({ preventScroll: true });
  field.select();
});

// hardware is put where one points: what is there, the server says
async function pointAt(at, strip, svg) {
  const { view, top, height, middle } = strip.dataset, tool = drawing();
  const asked = new URLSearchParams({
    view, top, height, middle, x: at.x, y: at.y, from_mm: svg.dataset.low, to_mm: svg.dataset.high, fields: tool.dataset.fields,
  });
  const answer = await fetch(`${tool.dataset.pointUrl}?${asked}`);
  if (!answer.ok) return;
  const { onto, fields } = await answer.json();
  for (const [id, text] of Object.entries(fields ?? {})) document.getElementById(id).value = text;
  if (tool.id !== "point") {
    // back and right first, then up: what comes next is pointed at without another press
    const tools = [...document.querySelectorAll("[data-fields]:not(#point)")];
    if (view === "left") (tools[tools.indexOf(tool) + 1] ?? tool).click();
    return;
  }
  const form = tool.form;
  form.querySelector(`[name=where][value=${onto ? "port" : "place"}]`).checked = true;
  if (onto) form.elements.onto.value = onto;
  const words = onto ? `onto ${form.elements.onto.selectedOptions[0].textContent}` : Object.values(fields).join(", ");
  document.getElementById("pointed").textContent = `${words}: now set it down, or point again`;
}

// a finger that draws does not move the page: said here too, for `touch-action` is a frame late behind a tool just taken
document.addEventListener("touchstart", (event) => {
  if (event.target.closest?.("svg.strips.drawing")) event.preventDefault();
}, { passive: false });

// what the browser takes for something else is no stroke, and not in the way of the next
document.addEventListener("pointercancel", endStroke);

document.addEventListener("pointermove", (event) => {
  if (!stroke.strip || event.pointerId !== stroke.id) return;
  event.stopImmediatePropagation();
  const svg = document.querySelector("svg.strips");
  stroke.to = placeOf(event, svg);
  const { from, to } = stroke, [shape, words] = stroke.drawn.children;
  const put = (values) => Object.entries(values).forEach(([key, value]) => shape.setAttribute(key, value));
  if (shape.tagName === "rect") put({ x: Math.min(from.x, to.x), y: Math.min(from.y, to.y), width: Math.abs(to.x - from.x), height: Math.abs(to.y - from.y) });
  else put({ x1: from.x, y1: from.y, x2: to.x, y2: to.y });
  // how long it looks, in the person's unit: what it is, the server says
  const per = (svg.dataset.high - svg.dataset.low) / svg.viewBox.baseVal.width / (svg.dataset.unit === "in" ? 25.4 : 1);
  const long = (px) => (Math.abs(px) * per).toFixed(svg.dataset.unit === "in" ? 2 : 0);
  words.textContent = shape.tagName === "rect" ? `${long(to.x - from.x)} × ${long(to.y - from.y)}` : long(Math.hypot(to.x - from.x, to.y - from.y));
  words.setAttribute("x", Math.min(Math.max(to.x + 8, 4), svg.viewBox.baseVal.width - 90));
  words.setAttribute("y", Math.max(to.y - 8, Number(stroke.strip.dataset.top) + 18));
}, true);

document.addEventListener("pointerup", (event) => {
  if (!stroke.strip || event.pointerId !== stroke.id) return;
  event.stopImmediatePropagation();
  const { from, to, strip } = stroke, tool = drawing();
  endStroke();
  if (!tool || Math.hypot(to.x - from.x, to.y - from.y) < LEAST_PX) return;
  const { view, top, height, middle } = strip.dataset;
  putIn(tool, [{ x: from.x.toFixed(2), y: from.y.toFixed(2), view, top, height, middle }, { x: to.x.toFixed(2), y: to.y.toFixed(2) }]);
}, true);

document.addEventListener("pointercancel", endStroke, true);

// --- taking hold of what is there -------------------------------------------------------------------------------------

document.addEventListener("pointerdown", (event) => {
  const handle = event.target.closest?.("[data-handle]");
  const strips = document.querySelector("svg.strips.editable, svg.strips.has-corners");
  const part = strips?.classList.contains("editable") && event.target.closest?.(".editable [data-thing], .slice [data-thing]");
  if (!strips || event.button !== 0 || (!handle && !part)) return;
  const chosen = strips.dataset.chosen;
  const thing = handle ? chosen : part.dataset.thing;
  // with a finger only what is chosen already is dragged: anything else could be a stroke across the strip
  if (event.pointerType !== "mouse" && thing !== chosen) return;
  event.stopPropagation();
  event.preventDefault();
  const svg = event.target.ownerSVGElement.closest("svg.slice") || strips;
  const within = event.target.closest("[data-view]") || svg;
  Object.assign(hold, {
    id: event.pointerId, svg, thing, handle: handle?.dataset.handle || "", view: viewOf(event.target),
    x: event.clientX, y: event.clientY, moved: false,
    parts: handle ? [handle, handle.nextElementSibling] : [...within.querySelectorAll(`[data-thing="${CSS.escape(thing)}"]`)],
  });
  if (svg.hasPointerCapture && event.isTrusted) svg.setPointerCapture(event.pointerId);
}, true);

document.addEventListener("pointermove", (event) => {
  if (!hold.svg || event.pointerId !== hold.id) return;
  event.stopPropagation();
  const dx = event.clientX - hold.x, dy = event.clientY - hold.y;
  if (!hold.moved && Math.hypot(dx, dy) < LEAST_PX) return;
  hold.moved = true;
  const k = pxOf(hold.svg);
  hold.parts.forEach((part) => part.setAttribute("transform", `translate(${dx * k} ${dy * k})`));
}, true);

document.addEventListener("pointerup", (event) => {
  if (!hold.svg || event.pointerId !== hold.id) return;
  event.stopPropagation();
  const { svg, thing, handle, view, moved } = hold;
  const k = pxOf(svg);
  const dx = (event.clientX - hold.x) * k, dy = (event.clientY - hold.y) * k;
  hold.svg = null;
  if (!moved) return chooseThing(thing);
  const form = document.getElementById("drag-form");
  const values = { ...Object.fromEntries(new FormData(form)), thing, handle, view, dx: dx.toFixed(2), dy: dy.toFixed(2) };
  edit(form, values); // app.js: one after another
}, true);

document.addEventListener("pointercancel", () => {
  hold.parts.forEach((part) => part.removeAttribute("transform"));
  hold.svg = null;
}, true);

// a tap with a finger on what is not chosen yet
document.addEventListener("click", (event) => {
  const part = event.target.closest?.(".editable [data-thing], .slice [data-thing]");
  const strips = document.querySelector("svg.strips.editable");
  if (part && strips && part.dataset.thing !== strips.dataset.chosen) chooseThing(part.dataset.thing);
});

function chooseThing(thing) {
  const frame = document.getElementById("strips-frame");
  const form = document.getElementById("drag-form");
  if (!frame || !thing || thing === "low-line" || thing === "lowered-line") return;
  const shown = ["from_mm", "to_mm"].map((key) => `${key}=${form.elements[key].value}`).join("&");
  look(`${frame.dataset.chooseThing}&thing=${encodeURIComponent(thing)}&${shown}`);
}
