/** What was typed is never lost: a form that was refused is shown again as it was filled in, with the reason in it. */

const TYPED = "fence.typed";
const REASON = "fence.refused";
const LEFT_ALONE = "[type=hidden], [type=password], [type=file], [type=submit], [type=button]";

const fieldsOf = (form) => [...form.elements].filter((e) => e.name && !e.matches(`button, ${LEFT_ALONE}`));

/** A field as it stands. */
const stateOf = (e) => [e.name, e.value, e.matches("[type=checkbox], [type=radio]") ? e.checked : null];

/** Where a form is sent, by one of its buttons (a field may be called action, and hide the form's own). */
function actionOf(form, button) {
  const action = button?.getAttribute("formaction") || form.getAttribute("action") || location.href;
  return new URL(action, location.href).href.split("#")[0];
}

/** Take up what a form holds as it is sent. */
function takeUp(event) {
  const form = event.target;
  if (event.defaultPrevented || form.getAttribute("method") !== "post") return;
  const action = actionOf(form, event.submitter);
  const fields = fieldsOf(form).map(stateOf);
  if (fields.length === 0) return;
  sessionStorage.setItem(TYPED, JSON.stringify({ page: location.href.split("#")[0], action, fields }));
}

/** What was taken up, once. */
function takenUp() {
  const held = JSON.parse(sessionStorage.getItem(TYPED) || "null");
  sessionStorage.removeItem(TYPED);
  return held;
}

/** The form that was sent: it goes to the same place, and has all the fields. */
function formOf(held) {
  const names = [...new Set(held.fields.map(([name]) => name))];
  return [...document.forms].find((form) => {
    const buttons = [null, ...form.querySelectorAll("[formaction]")];
    return buttons.some((button) => actionOf(form, button) === held.action) && names.every((name) => form.elements[
      name]);
  });
}

/** Put everything back as it was typed, and open what hides it. */
function putBack(form, fields) {
  const left = [...fields];
  const changed = [];
  for (const e of fieldsOf(form)) {
    const at = left.findIndex(([name, value, ticked]) => name === e.name && (ticked === null || value === e.value));
    if (at < 0) continue;
    const [, value, ticked] = left.splice(at, 1)[0];
    const before = [e.value, e.checked];
    if (ticked === null) e.value = value;
    else e.checked = ticked;
    if (before[0] !== e.value || before[1] !== e.checked) changed.push(e);
  }
  for (let around = form; around; around = around.parentElement?.closest("details")) {
    if (around.matches("details")) around.open = true;
  }
  return changed;
}

/** What follows the fields (a preview, what is shown for a choice) begins anew, as if they were typed now. */
function follow(fields) {
  for (const e of fields) {
    for (const kind of ["input", "change"]) e.dispatchEvent(new Event(kind, { bubbles: true }));
  }
}

/** Say why, at the field whose words the reason quotes, else at the head of the form. */
function say(form, reason) {
  const quoted = [...reason.matchAll(/“([^”]*)”/g)].map((found) => found[1]);
  const meant = fieldsOf(form).find((e) => e.value && quoted.includes(e.value.trim()));
  const told = document.createElement("p");
  told.className = "invalid";
  told.id = "refused";
  told.setAttribute("role", "alert");
  told.textContent = reason;
  if (!meant) {
    form.prepend(told);
    told.tabIndex = -1;
    told.focus();
    return;
  }
  meant.closest("details")?.setAttribute("open", "");
  meant.after(told);
  meant.classList.add("is-invalid");
  meant.setAttribute("aria-invalid", "true");
  meant.setAttribute("aria-describedby", told.id);
  meant.focus();
}

document.addEventListener("submit", takeUp);

const refused = document.querySelector("[data-refused]");
const reason = sessionStorage.getItem(REASON);
sessionStorage.removeItem(REASON);
if (refused) {
  const held = JSON.parse(sessionStorage.getItem(TYPED) || "null");
  if (held && document.referrer.split("#")[0] === held.page && location.href.split("#")[0] === held.action) {
    sessionStorage.setItem(REASON, refused.textContent.trim());
    location.replace(held.page);
  }
} else {
  const held = takenUp();
  const form = reason && held && location.href.split("#")[0] === held.page && formOf(held);
  if (form) {
    const changed = putBack(form, held.fields);
    say(form, reason);
    addEventListener("load", () => follow(changed), { once: true });
  }
}
