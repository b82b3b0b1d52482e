// The server evaluates a form while the user types: the same page is requested with the input so
// far, and the part is redrawn. Nothing is recorded by it.
export const redraw = () => ({
  timer: 0,
  turn: 0,

  init() {
    const form = this.$root.closest("form");
    const soon = () => {
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
      if (fresh) this.$root.replaceChildren(...fresh.childNodes);
    } catch {
      // Keep it; recording reports the error.
    }
  },
});
