// Dragging a coil on the plan to another cylinder opens the move, filled in. The
// coil is a link as well, so the same is done with keys: Enter on the coil, then
// the cylinder's button.
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
    const cell = this.moved ? this.under(event) : null;
    this.letGo();
    if (!cell || cell.dataset.cylinder === chip.dataset.from) return;
    const url = new URL(chip.getAttribute("href"), location.href);
    url.searchParams.set("to", cell.dataset.cylinder);
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
    for (const cell of this.svg.querySelectorAll("[data-cylinder]")) {
      // The outline alone: the whole group stretches with the coil that is dragged.
      const box = cell.querySelector("[data-outline]").getBoundingClientRect();
      if (event.clientX >= box.left && event.clientX <= box.right && event.clientY >= box.top && event.clientY <= box.bottom) return cell;
    }
    return null;
  },

  mark(cell) {
    for (const other of this.svg.querySelectorAll("[data-cylinder]")) other.classList.toggle("target", other === cell);
  },
});
