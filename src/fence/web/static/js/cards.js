/** A table that is wider than a phone becomes cards: each row with the heads of its columns beside. */

const phone = window.matchMedia("(max-width: 600px)");

const ROLES = [
  ["thead, tbody", "rowgroup"],
  ["tr", "row"],
  ["thead th", "columnheader"],
  ["tbody th", "rowheader"],
  ["td", "cell"],
];

/** The head over each column, a head over several columns for each of them. */
function headsOf(table) {
  const row = table.tHead?.rows[table.tHead.rows.length - 1];
  return [...(row?.cells ?? [])].flatMap((cell) => Array(cell.colSpan).fill(cell.innerText.trim()));
}

/** Name each cell by its head; the roles stay, although the cells no longer stand as a table. */
function turn(table) {
  const heads = headsOf(table);
  for (const [what, role] of ROLES) {
    table.querySelectorAll(what).forEach((part) => part.setAttribute("role", role));
  }
  table.setAttribute("role", "table");
  for (const body of table.tBodies) {
    for (const row of body.rows) {
      [...row.cells].forEach((cell, place) => {
        cell.dataset.head = heads[place] ?? "";
        if (!cell.childElementCount && !cell.textContent.trim()) cell.replaceChildren(); // its head says nothing
      });
    }
  }
  table.classList.add("as-cards");
}

/** Turn every table that would scroll sideways. */
function turnAll() {
  if (!phone.matches) return;
  for (const table of document.querySelectorAll(".table-scroll > table:not(.as-cards)")) {
    const around = table.parentElement;
    if (table.tHead && around.scrollWidth > around.clientWidth + 1) turn(table);
  }
}

turnAll();
phone.addEventListener("change", turnAll);
document.addEventListener("htmx:afterSettle", turnAll);
document.addEventListener("toggle", turnAll, true);
