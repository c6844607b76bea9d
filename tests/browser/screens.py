"""Every screen, and what a thumb needs of it."""

from __future__ import annotations

DOUBTED = (
    "const box = document.getElementById('text');"
    "box.value = 'Ch\\tFunction\\tValue\\n1\\tRed\\t0-255\\n2\\tRipple\\t';"
    "box.dispatchEvent(new Event('input', {bubbles: true}))"
)
"""A paste with columns and one doubt."""
TALKER = "/shows/1/rdm/device/7FF0:00000009"
SCREENS = [
    ("/", None),
    ("/shows/2/charts", "document.querySelectorAll('details')[3].open = true"),
    ("/shows/2/charts/teasel-sway/channels", None),
    ("/shows/2/charts/paste", None),
    ("/shows/2/charts/paste?", DOUBTED),
    ("/shows/2/charts/tansy-pond-wash/edit", None),
    ("/shows/2/charts/tansy-pond-wash/update", None),
    ("/shows/2/charts/dibber-furrow/modes", None),
    ("/shows/2/charts/probe", "document.querySelectorAll('[name=practice]')[3].click()"),
    ("/shows/2/charts/files/words", None),
    ("/shows/2/modes?goal=full", None),
    ("/shows/2/modes/change?recommended=1", None),
    ("/shows/2/rig", None),
    ("/shows/2/rig", "document.querySelector('[data-panel=stop]').click()"),
    ("/shows/2/rig/add?u=2", None),
    ("/shows/2/rig/28", None),
    ("/shows/2/rig/plan?fixture=9", None),
    ("/shows/2/address?u=3", None),
    (
        "/shows/2/address?pick=28",
        "document.querySelectorAll('details').forEach((d) => { d.open = true })",
    ),
    ("/shows/2/address?u=4&pick=60", None),
    (
        "/shows/2/address/repair?u=2",
        "document.querySelectorAll('details').forEach((d) => { d.open = true })",
    ),
    ("/shows/2/address/universes/1", None),
    ("/shows/2/address?u=2&pick=28&also=29,30", None),
    ("/shows/2/address/layout?school=spaced&whom=Rill", None),
    ("/shows/2/address/trial?tried=1&kind=dibber-furrow+%7C+24+channel&quantity=12", None),
    ("/shows/2/address/sheet/2", None),
    ("/shows/2/address/room?length=24", None),
    ("/shows/2/address/ways", None),
    ("/shows/1/lines", None),
    ("/shows/3/lines?line=2", None),
    (
        "/shows/3/lines?line=1&stop=15",
        "document.querySelectorAll('details').forEach((d) => { d.open = true })",
    ),
    ("/shows/1/lines/pull", None),
    (
        "/shows/2/lines?line=5&stop=1",
        "document.querySelectorAll('details').forEach((d) => { d.open = true })",
    ),
    ("/shows/2/lines/plan?what=plan&anew=1", None),
    ("/shows/2/lines/ground", None),
    ("/shows/2/lines/stock", None),
    ("/shows/2/lines/day", None),
    ("/shows/2/lines/wireless?position=Rill", None),
    ("/shows/2/lines/pins", None),
    ("/shows/2/lines/read", None),
    ("/switches?address=97", None),
    ("/practise", None),
    ("/shows/2/practise", None),
    ("/shows/2/practise/drill/switches-set?seed=4", None),
    ("/practise/drill/modes?seed=4&level=2", None),
    ("/shows/1/practise/drill/next-start?seed=4&said=1.1", None),
    ("/practise/sheet?seed=4", None),
    ("/shows/2/practise/find", None),
    ("/shows/2/practise/cases/new", None),
    ("/practise/heap?seed=4&level=2", None),
    ("/practise/cable?seed=4&level=3", None),
    ("/shows/2/prove/practice?where=f28", None),
    ("/shows/2/switches", None),
    ("/shows/2/lists", None),
    ("/shows/2/lists?by=channel&whom=u2", None),
    ("/shows/3/log", "document.querySelector('.log details').open = true"),
    ("/shows/3/log/compare?first=1", None),
    ("/shows/2/network", None),
    ("/shows/2/network?box=2&port=4", None),
    (
        "/shows/1/network?box=1",
        "document.querySelectorAll('details').forEach((d) => { d.open = true })",
    ),
    ("/shows/3/network", None),
    ("/shows/2/network/ports?duplicates=1", None),
    (
        "/shows/2/network/addresses",
        "document.querySelectorAll('details').forEach((d) => { d.open = true })",
    ),
    ("/shows/2/network/cards", None),
    ("/shows/2/network/cards/2", None),
    (
        "/shows/2/network/look",
        "document.querySelectorAll('details').forEach((d) => { d.open = true })",
    ),
    ("/shows/2/numbers?typed=0.0.3&counting=artnet&other=10.0.0.1", None),
    ("/shows/3/set", None),
    ("/shows/3/set/47", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/3/set/60", None),
    (
        "/shows/3/set/47/says?says=301",
        "document.querySelectorAll('details').forEach((d) => { d.open = true })",
    ),
    ("/shows/3/set/60/says?on=1,2&look=1", None),
    ("/shows/3/set/place?at=Gatehouse", None),
    ("/shows/3/set/order", None),
    (
        "/shows/3/set/labels",
        "document.querySelectorAll('details').forEach((d) => { d.open = true })",
    ),
    ("/shows/3/set/round", None),
    ("/shows/3/set/open?code=U4+257", None),
    ("/shows/3/prove", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/3/prove/troubleshoot", "document.getElementById('symptom-dark').click()"),
    ("/shows/3/prove/faders?fixture=5", None),
    ("/shows/3/prove/colour?colour=3200+K", None),
    ("/shows/3/prove/lesson?step=4", None),
    ("/shows/1/rdm", "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/2/rdm", None),
    (TALKER, "document.querySelectorAll('details').forEach((d) => { d.open = true })"),
    ("/shows/1/rdm/first", None),
    ("/shows/1/rdm/hold", None),
    ("/shows/2/settings", None),
    ("/shows/99", None),
]
PHONE = {"width": 390, "height": 844, "deviceScaleFactor": 1, "mobile": True}
DESK = {"width": 1280, "height": 800, "deviceScaleFactor": 1, "mobile": False}

DRAWN = "requestAnimationFrame(() => requestAnimationFrame(arguments[0]))"
"""Waits until a page has been drawn at its new size."""
SIDEWAYS = """
const head = document.querySelector(".top");
const tables = [...document.querySelectorAll(".table-scroll")];
return [
  ...tables.filter((e) => e.scrollWidth > e.clientWidth + 2).map((e) =>
    `table of ${e.scrollWidth} px in ${e.clientWidth}`),
  ...(head && head.offsetHeight > 96 ? [`head of ${head.offsetHeight} px`] : []),
];
"""
"""Tables that scroll sideways, and a head that takes more than 96 px."""
TOO_SMALL = """
const kinds = "a[href], button, input:not([type=hidden]), select, textarea, summary";
const words = "p, li, td, dd, th, .hint";
const away = "svg, [hidden], .visually-hidden, .visually-hidden-focusable, dialog:not([open]), " +
  ".dropdown-menu:not(.show)";
const inWords = (e) => {
  const around = e.matches("a:not(.btn, .pill, .tool, .step)") && e.closest(words);
  return around && [...around.childNodes].some((n) => n.nodeType === 3 && n.textContent.trim());
};
return [...document.querySelectorAll(kinds)].filter((e) => {
  if (e.closest(away) || inWords(e) || !e.checkVisibility({visibilityProperty: true})) return false;
  const ticked = e.matches("[type=checkbox], [type=radio]");
  const box = (ticked ? e.closest("label") || e.labels[0] || e : e).getBoundingClientRect();
  const least = e.closest(".at-fixture") ? 47.5 : 43.5;
  const narrow = e.matches(".tap") ? 36 : e.matches(".seg") ? 43.5 : least;
  return box.width > 0 && (box.height < least || box.width < narrow);
}).map((e) => {
  const box = e.getBoundingClientRect();
  return e.outerHTML.slice(0, 110) + " " + Math.round(box.width) + "x" + Math.round(box.height);
});
"""
"""Whatever can be touched and is less than 44 px high or wide (48 px at the fixture), but for links
within a sentence, runs of the fence, and the switches of a row: nine beside each other are as wide
as the screen allows, and high."""
