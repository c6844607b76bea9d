/** What is tapped counts: switches in a drill, segments of a display that are lit, a colour that is picked. */

// nothing is told of a switch before the answer is given
document.addEventListener("click", (event) => {
  const tap = event.target.closest("[data-tap]");
  if (!tap) return;
  const answer = document.getElementById("answer");
  const on = new Set(answer.value.split(",").filter(Boolean));
  const number = tap.dataset.tap;
  if (!on.delete(number)) on.add(number);
  answer.value = [...on].join(",");
  tap.setAttribute("aria-pressed", on.has(number));
  for (const name of ["on", "off", "up", "down"]) tap.classList.toggle(name);
});

// what is typed counts before the segments
document.addEventListener("click", (event) => {
  const segment = event.target.closest("[data-seg]");
  if (!segment) return;
  segment.setAttribute("aria-pressed", segment.getAttribute("aria-pressed") !== "true");
  const pads = [...document.querySelectorAll("[data-pad]")];
  const lit = (pad) => [...pad.querySelectorAll("[aria-pressed=true]")].map((one) => one.dataset.seg).join("");
  document.querySelector("[data-lit]").value = pads.map(lit).join(",");
  document.getElementById("typed").value = "";
});

(document.querySelector("[data-lit]")?.value || "").split(",").forEach((segments, place) => {
  for (const name of segments) {
    const segment = document.querySelector(`[data-pad="${place}"] [data-seg="${name}"]`);
    segment?.setAttribute("aria-pressed", "true");
  }
});

document.addEventListener("input", (event) => {
  const goal = event.target.dataset.picks;
  if (goal) document.querySelector(goal).value = event.target.value;
});
