// Keeps what is typed in a form until the server has it. Before a form is sent
// the server is asked whether it is there; when it is not, the form stays as it
// is. What was typed also outlives a closed page, until it has been sent.
export const guard = () => ({
  // Every property is declared here: one that is not would be set on the page's
  // outermost component, and shared by all forms.
  lost: false,
  restored: false,
  form: null,
  key: "",
  ok: false,

  init() {
    this.form = this.$el;
    this.key = "draft:" + location.pathname;
    if (this.form.hasAttribute("data-pristine")) this.restore();
    this.form.addEventListener("input", () => this.keep());
    this.form.addEventListener("submit", (event) => this.send(event));
    this.form.addEventListener("reset", () => {
      localStorage.removeItem(this.key);
      this.restored = false;
    });
  },

  fields() {
    return [...this.form.elements].filter((f) => f.name && f.type !== "hidden" && f.type !== "submit" && f.type !== "file");
  },

  keep() {
    const typed = this.fields().map((f) => [f.name, f.value, f.checked === true]);
    localStorage.setItem(this.key, JSON.stringify({ at: Date.now(), typed }));
  },

  restore() {
    const draft = JSON.parse(localStorage.getItem(this.key) || "null");
    if (!draft || Date.now() - draft.at > 24 * 3600 * 1000 || location.search) return;
    for (const [name, value, checked] of draft.typed) {
      for (const f of this.fields().filter((f) => f.name === name)) {
        if (f.type === "checkbox" || f.type === "radio") {
          if (f.value === value) f.checked = checked;
        } else f.value = value;
      }
    }
    this.restored = true;
  },

  async send(event) {
    if (this.ok) return;
    event.preventDefault();
    const button = event.submitter;
    try {
      const answer = await fetch("/readyz", { cache: "no-store", signal: AbortSignal.timeout(5000) });
      if (!answer.ok) throw new Error(answer.statusText);
    } catch {
      this.lost = true;
      this.keep();
      return;
    }
    this.lost = false;
    this.ok = true;
    localStorage.removeItem(this.key);
    this.form.requestSubmit(button);
    this.ok = false;
  },
});
