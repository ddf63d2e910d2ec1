// Whether what was entered has reached the server: under way, saved, or not saved, with a way to try again. What was
// typed stays where it is until it is saved.

const SLOW_MS = 250, TOLD_MS = 1500;
const line = document.getElementById("saving");
let again = null, timer = 0;

function tell(words, kind, retry = null) {
  clearTimeout(timer);
  line.className = kind;
  line.querySelector("span").textContent = words;
  line.querySelector("button").hidden = !retry;
  again = retry;
  line.hidden = !words;
}

const underWay = () => { clearTimeout(timer); timer = setTimeout(() => tell("Saving …", "under-way"), again ? 0 : SLOW_MS); };

function saved() {
  const wasTold = !line.hidden;
  tell("", "");
  if (!wasTold) return;
  tell("Saved.", "done");
  timer = setTimeout(() => tell("", ""), TOLD_MS);
}

/** What did not arrive, in words, and how to send it again. */
export const notSaved = (retry, why = "no connection") => tell(`Not saved: ${why}. What you entered is still here.`, "failed", retry);

line?.querySelector("button").addEventListener("click", () => { const retry = again; underWay(); retry?.(); });

// Parts of a page, by htmx.
const sends = (event) => event.detail.requestConfig?.verb === "post";
const resend = ({ elt, requestConfig: sent }) => () => {
  const kind = sent.triggeringEvent?.type;
  if (elt.isConnected && kind === "submit") elt.requestSubmit();
  else if (elt.isConnected && kind) elt.dispatchEvent(new Event(kind, { bubbles: true }));
  else window.htmx.ajax("POST", sent.path, { target: sent.target, swap: "outerHTML", values: Object.fromEntries(sent.formData) });
};
document.addEventListener("htmx:beforeSend", (event) => { if (sends(event)) underWay(); });
document.addEventListener("htmx:afterRequest", (event) => {
  if (event.detail.successful && sends(event)) saved();
  else if (event.detail.successful && line.className === "failed" && !again) tell("", "");
});
for (const name of ["htmx:sendError", "htmx:timeout"]) {
  document.addEventListener(name, (event) => {
    if (sends(event)) notSaved(resend(event.detail));
    else tell("No connection: the page could not be shown.", "failed");
  });
}
document.addEventListener("htmx:responseError", (event) => {
  const { status } = event.detail.xhr;
  // 422 is swapped in and says what is wrong.
  if (status === 422) tell("", "");
  else if (sends(event)) notSaved(resend(event.detail), `the server answered ${status}`);
  else tell(`The page could not be shown: the server answered ${status}.`, "failed");
});

// Whole pages: asked first whether the server can be reached, because the browser would put its own error page in place
// of what was typed.
const isReachable = () => fetch(line.dataset.probe, { method: "HEAD", cache: "no-store" }).then((answer) => answer.ok, () => false);
document.addEventListener("submit", async (event) => {
  const form = event.target, { submitter } = event;
  if (form.method !== "post" || form.hasAttribute("hx-post") || event.defaultPrevented) return;
  if (form.dataset.reached) { delete form.dataset.reached; return; }
  event.preventDefault();
  if (form.dataset.asking) return;
  form.dataset.asking = "yes";
  underWay();
  const reached = await isReachable();
  delete form.dataset.asking;
  const send = () => form.requestSubmit(submitter?.isConnected ? submitter : null);
  if (!reached) { notSaved(send); return; }
  form.dataset.reached = "yes";
  send();
  // The browser found a field that has to be filled in: nothing was sent.
  if (form.dataset.reached) { delete form.dataset.reached; tell("", ""); }
});
window.addEventListener("pageshow", () => { if (line) tell("", ""); });
