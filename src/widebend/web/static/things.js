// Taking hold of things, or of a pipe's corners, in the strips and the slice: choose, drag, stretch. Only pixels are told to the server; what
// they mean, and what they snap to, it says itself.
"use strict";

const LEAST_PX = 5; // less than this is a tap
const hold = { id: 0, svg: null, thing: "", handle: "", view: "", x: 0, y: 0, parts: [], moved: false };

// SVG pixels for a distance on the screen: the picture may be shrunk to fit
function pxOf(svg) {
  const box = svg.getBoundingClientRect();
  return (svg.viewBox.baseVal.width || box.width) / box.width;
}

function viewOf(target) {
  return target.closest("svg.slice") ? "slice" : target.closest("[data-view]")?.dataset.view || "below";
}

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
