// Dragging a part on the plan to another place opens the form of the move, filled in. The part is
// also a link: Enter on the part, then the button of the place. A part can be dropped on places for
// its kind.
export const drag = () => ({
  svg: null,
  held: null,
  moved: false,

  init() {
    const svg = this.$el;
    this.svg = svg;
    svg.addEventListener("pointerdown", (event) => this.take(event));
    window.addEventListener("pointermove", (event) => this.carry(event));
    window.addEventListener("pointerup", (event) => this.drop(event));
    window.addEventListener("pointercancel", () => this.letGo());
    // The browser's own link dragging would get in the way.
    svg.addEventListener("dragstart", (event) => event.preventDefault());
    svg.addEventListener("click", (event) => {
      if (this.moved) event.preventDefault();
      this.moved = false;
    }, true);
  },

  take(event) {
    const chip = event.target.closest("[data-tag]");
    if (!chip || event.button !== 0) return;
    this.held = { chip, x: event.clientX, y: event.clientY };
    this.moved = false;
  },

  carry(event) {
    if (!this.held) return;
    const dx = event.clientX - this.held.x;
    const dy = event.clientY - this.held.y;
    if (!this.moved && Math.hypot(dx, dy) < 8) return;
    this.moved = true;
    const scale = this.svg.viewBox.baseVal.width / this.svg.getBoundingClientRect().width;
    this.held.chip.setAttribute("transform", `translate(${dx * scale} ${dy * scale})`);
    this.held.chip.classList.add("held");
    this.mark(this.under(event));
  },

  drop(event) {
    if (!this.held) return;
    const chip = this.held.chip;
    const place = this.moved ? this.under(event) : null;
    this.letGo();
    if (!place || place.dataset.drop === chip.dataset.from) return;
    const url = new URL(chip.getAttribute("href"), location.href);
    url.searchParams.set("to", place.dataset.drop);
    location.assign(url);
  },

  letGo() {
    if (!this.held) return;
    this.held.chip.removeAttribute("transform");
    this.held.chip.classList.remove("held");
    this.held = null;
    this.mark(null);
  },

  under(event) {
    const kind = this.held.chip.dataset.kind;
    for (const place of this.svg.querySelectorAll("[data-drop]")) {
      if (!place.dataset.kinds.split(" ").includes(kind)) continue;
      // Compare with the outline only: the whole group grows with the dragged part.
      const box = place.querySelector("[data-outline]").getBoundingClientRect();
      if (event.clientX >= box.left && event.clientX <= box.right && event.clientY >= box.top && event.clientY <= box.bottom) return place;
    }
    return null;
  },

  mark(place) {
    for (const other of this.svg.querySelectorAll("[data-drop]")) other.classList.toggle("target", other === place);
  },
});
