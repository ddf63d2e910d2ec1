// Photographs dropped on the counter: sent one after the other, read for their release, and a case starts by itself.

import { aFewAtATime, line, whenDropped } from "./drop.js";

const EVERY_MS = 600;
const NOBODY = "00000000-0000-0000-0000-000000000000";

export function setUpArrivals(root = document) { whenDropped(root.querySelector("[data-arrivals]"), take); }

async function take(form, files) {
  if (!files.length) return;
  const start = document.querySelector("form.start");
  // The page's own token: a browser makes none on a plain http address.
  const { arrivals } = start.elements, token = arrivals?.value || start.elements.token.value;
  const url = form.dataset.arrivals.replace(NOBODY, token);
  if (arrivals) arrivals.value = token;
  const list = form.querySelector(".drop-files"), said = form.querySelector(".arrivals-said");
  list.replaceChildren();
  said.textContent = `Sending ${files.length} photograph${files.length === 1 ? "" : "s"} …`;
  await aFewAtATime([...files], (file) => send(form, url, file, list));
  await watch(url, said, start);
}

async function send(form, url, file, list) {
  const body = new FormData();
  body.append("csrfmiddlewaretoken", form.querySelector("[name=csrfmiddlewaretoken]").value);
  body.append("files", file, file.name);
  let problems;
  try {
    ({ problems } = await (await fetch(url, { method: "POST", body })).json());
  } catch {
    problems = [`${file.name}: the connection broke off. Nothing else is lost; drop it again.`];
  }
  problems.forEach((words) => line(list, words, "bad"));
}

async function watch(url, said, start) {
  for (;;) {
    let state;
    try { state = await (await fetch(url)).json(); } catch { state = null; }
    if (state && state.arrived === 0) { said.textContent = ""; return; }
    if (state?.releases.length === 1) {
      said.textContent = `${state.releases[0].name}.`;
      begin(start, state.releases[0].code);
      return;
    }
    if (state && (state.releases.length > 1 || state.read === state.arrived)) { ask(state, said, start); return; }
    if (state) said.textContent = `Reading which release it is: ${state.read} of ${state.arrived} …`;
    await new Promise((done) => setTimeout(done, EVERY_MS));
  }
}

const codeOf = (start) => start.elements.style_code ?? start.elements.typed_code;

function begin(start, code) {
  codeOf(start).value = code;
  start.requestSubmit();
}

// Two releases, or none: one key or a typed code; the photographs are kept for it.
function ask(state, said, start) {
  const words = state.releases.length ? "Which is it?" : "No release was read on them. Type its style code or name above: the photographs go with it.";
  said.replaceChildren(words, ...state.releases.map(({ code, name }, n) => {
    const button = document.createElement("button");
    button.type = "button";
    button.className = "quiet";
    button.dataset.digit = String(n + 1);
    button.textContent = `${n + 1} ${name}`;
    button.addEventListener("click", () => begin(start, code));
    return button;
  }));
  if (state.releases.length) document.activeElement?.blur();
  else codeOf(start).focus();
}
