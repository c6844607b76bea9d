/** Ticking on the picture of a line: a device and all behind it at once, and how many are ticked. */

/** Say how many fixtures are meant by the symptom that is chosen next. */
function tell() {
  const words = document.getElementById("ticked");
  if (!words) return;
  const count = document.querySelectorAll(".suspicion input:checked").length;
  words.hidden = count === 0;
  words.textContent = `${count} ticked on the picture: what you choose is said of ${count === 1 ? "it" : "them all"}.`;
}

document.addEventListener("click", (event) => {
  const button = event.target.closest("[data-behind]");
  if (!button) return;
  const rows = [...button.closest("ol").children];
  const from = rows.indexOf(button.closest("li"));
  const boxes = rows
    .slice(from, from + 1 + Number(button.dataset.behind))
    .map((row) => row.querySelector("input"))
    .filter(Boolean);
  const ticked = !boxes.every((box) => box.checked);
  boxes.forEach((box) => (box.checked = ticked));
  tell();
});

document.addEventListener("change", (event) => {
  if (event.target.closest(".suspicion")) tell();
});
