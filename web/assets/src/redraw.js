// The server evaluates a form while the user types: the same page is requested with the input so
// far, and the part is redrawn. Nothing is recorded by it. The part is aria-busy until then. It waits
// while a finger or the mouse is down, so that no button moves away under it.
export const redraw = () => ({
  timer: 0,
  turn: 0,
  held: false,

  init() {
    const form = this.$root.closest("form");
    const hold = (held) => () => (this.held = held);
    document.addEventListener("pointerdown", hold(true), { passive: true });
    for (const kind of ["pointerup", "pointercancel"]) document.addEventListener(kind, () => setTimeout(hold(false)), { passive: true });
    const soon = () => {
      this.$root.setAttribute("aria-busy", "true");
      clearTimeout(this.timer);
      this.timer = setTimeout(() => this.ask(form), 250);
    };
    form.addEventListener("input", soon);
    form.addEventListener("change", soon);
  },

  async ask(form) {
    const turn = ++this.turn;
    const typed = new URLSearchParams();
    for (const [name, value] of new FormData(form)) {
      if (value && !["version", "by", "note"].includes(name)) typed.append(name, value);
    }
    try {
      const page = await (await fetch(`${this.$root.dataset.from || location.pathname}?${typed}`)).text();
      if (turn !== this.turn) return;
      const fresh = new DOMParser().parseFromString(page, "text/html").getElementById(this.$root.id);
      if (fresh) this.put(turn, fresh);
      else this.$root.removeAttribute("aria-busy");
    } catch {
      // Keep it; recording reports the error.
      this.$root.removeAttribute("aria-busy");
    }
  },

  put(turn, fresh) {
    if (turn !== this.turn) return;
    if (this.held) {
      setTimeout(() => this.put(turn, fresh), 50);
      return;
    }
    this.$root.replaceChildren(...fresh.childNodes);
    this.$root.removeAttribute("aria-busy");
  },
});
