// The creeper card: done only by holding, the screen kept awake where the browser allows.
"use strict";

const HOLD_MS = 700; // longer than a sleeve brushing over the glass

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

async function stayAwake() {
  try { await navigator.wakeLock?.request("screen"); } catch { /* refused: the screen may sleep, nothing is lost */ }
}
stayAwake();
document.addEventListener("visibilitychange", () => { if (document.visibilityState === "visible") stayAwake(); });
