// Draws in space what the server computed: bodies as triangles, each moved by the matrix of its group's position.
// It turns, cuts and hides; it works nothing out.
"use strict";

const VERTEX = `#version 300 es
in vec3 place; uniform mat4 look; uniform mat4 move; out vec3 at;
void main() { vec4 p = move * vec4(place, 1.0); at = p.xyz; gl_Position = look * p; }`;
const FRAGMENT = `#version 300 es
precision highp float;
in vec3 at; uniform vec3 colour; uniform vec3 light; uniform float cut; out vec4 shown;
void main() {
  if (at.x < cut) discard;
  vec3 n = normalize(cross(dFdx(at), dFdy(at)));
  float lit = 0.55 + 0.45 * abs(dot(n, light));
  shown = vec4(colour * lit, 1.0);
}`;
const LOOKS = { below: [0, -89], left: [0, 0], behind: [90, 0], above: [0, 89], corner: [55, -28] };
const TOKENS = { pipe: "--chalk", part: "--soft", hard: "--hatch", "heat-shy": "--amber-area", soft: "--line" };

function startModel() {
  const canvas = document.getElementById("model");
  if (!canvas || canvas.dataset.started) return;
  canvas.dataset.started = "yes";
  const said = document.getElementById("model-said");
  const gl = canvas.getContext("webgl2", { antialias: true });
  if (!gl) { said.textContent = "This device cannot draw in space. The strips and findings on the other sheets show the same."; return; }
  const program = link(gl);
  const view = { turn: 55, tilt: -28, zoom: 1, cut: -1e9, hidden: new Set(), move: null };
  let model = null;
  fetch(canvas.dataset.from, { credentials: "same-origin" }).then((r) => r.json()).then((found) => {
    model = load(gl, program, found);
    if (!model.bodies.length) said.textContent = "Nothing is placed and nothing measured yet.";
    draw();
  }).catch(() => { said.textContent = "The bodies could not be fetched: reload the page."; });
  const draw = () => { if (model) requestAnimationFrame(() => paint(gl, program, canvas, model, view)); };
  gestures(canvas, view, draw);
  document.querySelectorAll("[data-look]").forEach((b) => b.addEventListener("click", () => { [view.turn, view.tilt] = LOOKS[b.dataset.look]; draw(); }));
  document.querySelectorAll("[data-kind]").forEach((b) => b.addEventListener("change", () => { b.checked ? view.hidden.delete(b.dataset.kind) : view.hidden.add(b.dataset.kind); draw(); }));
  document.getElementById("model-cut").addEventListener("input", (e) => { const s = Number(e.target.value) / 1000; view.cut = s ? model.low[0] + s * (model.high[0] - model.low[0]) : -1e9; draw(); });
  document.getElementById("model-move").addEventListener("change", (e) => { view.move = e.target.value === "" ? null : model.moves[Number(e.target.value)]; draw(); });
  addEventListener("resize", draw);
}

function link(gl) {
  const program = gl.createProgram();
  for (const [kind, text] of [[gl.VERTEX_SHADER, VERTEX], [gl.FRAGMENT_SHADER, FRAGMENT]]) {
    const shader = gl.createShader(kind);
    gl.shaderSource(shader, text); gl.compileShader(shader); gl.attachShader(program, shader);
  }
  gl.linkProgram(program);
  return program;
}

function bytes(text) {
  const raw = atob(text), out = new Uint8Array(raw.length);
  for (let i = 0; i < raw.length; i++) out[i] = raw.charCodeAt(i);
  return out.buffer;
}

function load(gl, program, found) {
  const low = [1e9, 1e9, 1e9], high = [-1e9, -1e9, -1e9];
  const style = getComputedStyle(document.documentElement);
  const bodies = found.bodies.map((b) => {
    const corners = new Float32Array(bytes(b.corners)), faces = new Uint32Array(bytes(b.faces));
    for (let i = 0; i < corners.length; i++) { low[i % 3] = Math.min(low[i % 3], corners[i]); high[i % 3] = Math.max(high[i % 3], corners[i]); }
    const vao = gl.createVertexArray();
    gl.bindVertexArray(vao);
    gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer()); gl.bufferData(gl.ARRAY_BUFFER, corners, gl.STATIC_DRAW);
    const place = gl.getAttribLocation(program, "place");
    gl.enableVertexAttribArray(place); gl.vertexAttribPointer(place, 3, gl.FLOAT, false, 0, 0);
    gl.bindBuffer(gl.ELEMENT_ARRAY_BUFFER, gl.createBuffer()); gl.bufferData(gl.ELEMENT_ARRAY_BUFFER, faces, gl.STATIC_DRAW);
    return { kind: b.kind, group: b.group, vao, count: faces.length, colour: colourOf(style.getPropertyValue(TOKENS[b.kind])) };
  });
  return { bodies, moves: found.moves, low, high, paper: colourOf(style.getPropertyValue("--card")) };
}

function colourOf(token) {
  const hex = token.trim().replace("#", "");
  return [0, 2, 4].map((i) => parseInt(hex.slice(i, i + 2), 16) / 255);
}

function paint(gl, program, canvas, model, view) {
  const ratio = window.devicePixelRatio || 1;
  const w = Math.round(canvas.clientWidth * ratio), h = Math.round(canvas.clientHeight * ratio);
  if (canvas.width !== w || canvas.height !== h) { canvas.width = w; canvas.height = h; }
  gl.viewport(0, 0, w, h);
  gl.clearColor(...model.paper, 1); gl.enable(gl.DEPTH_TEST); gl.clear(gl.COLOR_BUFFER_BIT | gl.DEPTH_BUFFER_BIT);
  if (!model.bodies.length) return;
  gl.useProgram(program);
  const eye = axes(view);
  gl.uniformMatrix4fv(gl.getUniformLocation(program, "look"), false, projected(model, view, eye, w / h));
  gl.uniform3fv(gl.getUniformLocation(program, "light"), eye[2]);
  gl.uniform1f(gl.getUniformLocation(program, "cut"), view.cut);
  const still = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
  for (const body of model.bodies) {
    if (view.hidden.has(body.kind)) continue;
    const moved = (view.move && view.move.matrices[body.group]) || still;
    gl.uniformMatrix4fv(gl.getUniformLocation(program, "move"), false, moved);
    gl.uniform3fv(gl.getUniformLocation(program, "colour"), body.colour);
    gl.bindVertexArray(body.vao);
    gl.drawElements(gl.TRIANGLES, body.count, gl.UNSIGNED_INT, 0);
  }
}

// right, up and toward the eye, in the vehicle's frame: turn 0 and tilt 0 look at the left side, front at the left
function axes(view) {
  const a = (view.turn * Math.PI) / 180, t = (view.tilt * Math.PI) / 180;
  const back = [Math.sin(a) * Math.cos(t), -Math.cos(a) * Math.cos(t), Math.sin(t)];
  const right = [Math.cos(a), Math.sin(a), 0];
  const up = [back[1] * right[2] - back[2] * right[1], back[2] * right[0] - back[0] * right[2], back[0] * right[1] - back[1] * right[0]];
  return [right, up, back];
}

// no perspective: what is as long looks as long
function projected(model, view, [right, up, back], wide) {
  const middle = [0, 1, 2].map((i) => (model.low[i] + model.high[i]) / 2);
  const half = [0, 1, 2].map((i) => (model.high[i] - model.low[i]) / 2);
  const reach = (way) => half.reduce((s, v, i) => s + v * Math.abs(way[i]), 0);
  const size = 1.06 * Math.max(reach(up), reach(right) / wide) / view.zoom;
  const depth = 4 * Math.hypot(...half) + 1000;
  const rows = [right.map((v) => v / (size * wide)), up.map((v) => v / size), back.map((v) => -v / depth)];
  const shift = rows.map((r) => -(r[0] * middle[0] + r[1] * middle[1] + r[2] * middle[2]));
  const out = [];
  for (let c = 0; c < 3; c++) out.push(rows[0][c], rows[1][c], rows[2][c], 0);
  return new Float32Array([...out, ...shift, 1]);
}

function gestures(canvas, view, draw) {
  const fingers = new Map();
  const turned = (dx, dy) => { view.turn -= dx * 0.4; view.tilt = Math.max(-89, Math.min(89, view.tilt + dy * 0.4)); draw(); };
  const closer = (by) => { view.zoom = Math.max(0.4, Math.min(20, view.zoom * by)); draw(); };
  canvas.addEventListener("pointerdown", (e) => { canvas.setPointerCapture(e.pointerId); fingers.set(e.pointerId, [e.clientX, e.clientY]); });
  canvas.addEventListener("pointermove", (e) => {
    const was = fingers.get(e.pointerId);
    if (!was) return;
    const now = [e.clientX, e.clientY];
    if (fingers.size === 2) {
      const other = [...fingers].find(([id]) => id !== e.pointerId)[1];
      closer(Math.hypot(now[0] - other[0], now[1] - other[1]) / Math.max(20, Math.hypot(was[0] - other[0], was[1] - other[1])));
    } else turned(now[0] - was[0], now[1] - was[1]);
    fingers.set(e.pointerId, now);
  });
  for (const end of ["pointerup", "pointercancel"]) canvas.addEventListener(end, (e) => fingers.delete(e.pointerId));
  canvas.addEventListener("wheel", (e) => { e.preventDefault(); closer(e.deltaY < 0 ? 1.15 : 1 / 1.15); }, { passive: false });
  canvas.addEventListener("keydown", (e) => {
    const moves = { ArrowLeft: [20, 0], ArrowRight: [-20, 0], ArrowUp: [0, 20], ArrowDown: [0, -20] };
    if (moves[e.key]) { e.preventDefault(); turned(...moves[e.key]); }
    if (e.key === "+" || e.key === "=") closer(1.15);
    if (e.key === "-") closer(1 / 1.15);
  });
}

document.addEventListener("DOMContentLoaded", startModel);
document.addEventListener("htmx:afterSwap", startModel);
