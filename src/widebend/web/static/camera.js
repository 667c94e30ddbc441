// Photos are sent one by one, so that each answers as soon as it was looked at; without this the form sends them all.
"use strict";

document.addEventListener("submit", async (event) => {
  const form = event.target.closest("form");
  const input = form?.querySelector("input[type=file][name=photos]");
  if (!input || input.files.length === 0) return;
  event.preventDefault();
  const said = form.querySelector("#photo-answers");
  const button = form.querySelector("button");
  button.disabled = true;
  said.replaceChildren();
  let refused = 0;
  for (const [k, file] of [...input.files].entries()) {
    const line = document.createElement("li");
    line.textContent = `${k + 1} of ${input.files.length}, ${file.name}: looking`;
    said.append(line);
    const body = new FormData();
    for (const field of form.querySelectorAll("input[type=hidden]")) body.append(field.name, field.value);
    body.append("one", "yes");
    body.append("photos", file);
    try {
      const answer = await fetch(form.action, { method: "POST", body });
      const words = new DOMParser().parseFromString(await answer.text(), "text/html").querySelector("li");
      line.textContent = `${k + 1} of ${input.files.length}: ${words ? words.textContent : "not taken, the program refused it"}`;
      if (!answer.ok) { line.className = "bad"; refused += 1; }
    } catch {
      line.textContent = `${k + 1} of ${input.files.length}, ${file.name}: no connection, send it again`;
      line.className = "bad";
      refused += 1;
    }
  }
  button.disabled = false;
  input.value = "";
  if (refused === 0) { location.reload(); return; }
  const link = document.createElement("a");
  link.href = location.href;
  link.className = "quiet-button";
  link.textContent = "show what was taken";
  said.append(link);
});
