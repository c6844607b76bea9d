/** What is typed beside a mark is not sent with it: it stands again on the next page, if that is of the same. */

const CARRIED = "fence.carried";

/** Take up what is typed, before a page is left for one that may have the same fields (`data-carry` says of what). */
export function carry() {
  const fields = [...document.querySelectorAll("[data-carry]")];
  const held = fields.map((e) => [e.id, e.dataset.carry, e.value, e.checked]);
  sessionStorage.setItem(CARRIED, JSON.stringify(held));
}

const held = JSON.parse(sessionStorage.getItem(CARRIED) || "[]");
sessionStorage.removeItem(CARRIED);
for (const [id, of, value, checked] of held) {
  const e = document.getElementById(id);
  if (e?.dataset.carry !== of) continue;
  e.value = value;
  e.checked = checked;
}
