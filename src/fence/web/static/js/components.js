/** Small components of pages: a list that is narrowed by what is typed, boxes of which many are ticked. */

function filter() {
  return {
    narrow(event) {
      const words = event.target.value.toLowerCase().split(/\s+/).filter(Boolean);
      for (const item of this.$root.querySelectorAll("[data-filter-text]")) {
        const text = item.dataset.filterText.toLowerCase();
        item.hidden = !words.every((word) => text.includes(word));
      }
    },
  };
}

function picks() {
  return {
    count: 0,
    last: null,
    init() {
      this.recount();
      this.$root.addEventListener("click", (event) => this.clicked(event));
      this.$root.addEventListener("htmx:afterSettle", () => this.recount());
    },
    boxes() {
      return [...this.$root.querySelectorAll("input[name=picked]")];
    },
    clicked(event) {
      const box = event.target;
      if (box.matches("[data-pick-all]")) this.tick(this.boxes(), box.checked);
      if (box.name === "picked") {
        if (event.shiftKey && this.last) this.tick(this.between(this.last, box), box.checked);
        this.last = box;
      }
      this.recount();
    },
    tick(boxes, checked) {
      for (const box of boxes) box.checked = checked;
    },
    between(one, other) {
      const boxes = this.boxes();
      const places = [boxes.indexOf(one), boxes.indexOf(other)].sort((a, b) => a - b);
      return boxes.slice(places[0], places[1] + 1);
    },
    recount() {
      this.count = this.boxes().filter((box) => box.checked).length;
    },
  };
}

document.addEventListener("alpine:init", () => {
  window.Alpine.data("filter", filter);
  window.Alpine.data("picks", picks);
});
