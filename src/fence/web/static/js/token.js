/** A step that is refused for its token alone is sent again with the fresh one that came with the refusal, once. */

const FIELD = "csrf_token";
let again = "";

function take(token) {
  document.body.setAttribute("hx-headers", JSON.stringify({ "X-CSRFToken": token }));
  for (const field of document.querySelectorAll(`input[name=${FIELD}]`)) field.value = token;
  for (const page of document.querySelectorAll("[data-csrf]")) page.dataset.csrf = token;
}

document.addEventListener("htmx:beforeOnLoad", (event) => {
  const { xhr, requestConfig: sent, etc, target } = event.detail;
  if (sent.verb === "get") return;
  const token = xhr.getResponseHeader("X-Fresh-Token");
  const step = `${sent.verb} ${sent.path}`;
  const first = step !== again;
  again = "";
  if (!token) return;
  take(token);
  if (!first) return; // this browser keeps no cookie: the message says so
  again = step;
  event.preventDefault();
  const values = { ...sent.parameters, [FIELD]: token };
  const how = { source: sent.elt, event: sent.triggeringEvent, target, swap: etc.swapOverride, select: etc.select };
  queueMicrotask(() => window.htmx.ajax(sent.verb, sent.path, { ...how, values }));
});
