// The engine editor: the server draws the plan while the user types.
export const engine = () => ({
  form: null,
  asked: 0,
  timer: 0,

  init() {
    this.form = this.$el;
    this.form.addEventListener("input", () => this.soon());
    this.form.addEventListener("change", () => this.soon());
  },

  soon() {
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.draw(), 150);
  },

  async draw() {
    const turn = ++this.asked;
    try {
      const answer = await fetch("/engine-plan", { method: "POST", body: new URLSearchParams(new FormData(this.form)) });
      const html = await answer.text();
      // Drop a late answer to an older request.
      if (turn === this.asked && answer.ok) this.$refs.plan.innerHTML = html;
    } catch {
      // Keep the plan; saving reports the error.
    }
  },

  start(event) {
    const pattern = event.currentTarget.value;
    if (!pattern) return;
    const url = new URL(location.href);
    url.searchParams.set("pattern", pattern);
    for (const name of ["fleet", "what"]) {
      const field = this.form.elements[name];
      if (field) url.searchParams.set(name, field.value);
    }
    location.assign(url);
  },
});
