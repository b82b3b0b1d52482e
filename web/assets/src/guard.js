import { forget, newId, read, write } from "./drafts.js";

// Keeps the input of a form until the server has recorded it. Before a form is sent, the server is
// asked whether it is ready. If it is not, the form stays.
export const guard = () => ({
  // Declare every property here. Otherwise it is set on the outermost component and shared by all
  // forms.
  lost: false,
  restored: false,
  form: null,
  key: "",
  id: "",
  ok: false,

  init() {
    this.form = this.$el;
    this.key = location.pathname + " " + new URL(this.form.action).pathname;
    this.id = newId();
    if (this.form.hasAttribute("data-pristine")) this.restore();
    this.form.addEventListener("input", () => this.keep());
    this.form.addEventListener("submit", (event) => this.send(event));
    this.form.addEventListener("reset", () => {
      forget(this.key);
      this.restored = false;
    });
  },

  fields() {
    return [...this.form.elements].filter((f) => f.name && f.type !== "hidden" && f.type !== "submit" && f.type !== "file");
  },

  keep() {
    write(this.key, this.id, this.fields().map((f) => [f.name, f.value, f.checked === true]));
  },

  restore() {
    const draft = read(this.key);
    if (!draft || location.search) return;
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
    if (read(this.key)) this.keep();
    this.name();
    this.form.requestSubmit(button);
    this.ok = false;
  },

  // name adds the draft's id to the form.
  name() {
    const field = this.form.querySelector("input[name=draft]") || this.form.appendChild(document.createElement("input"));
    field.type = "hidden";
    field.name = "draft";
    field.value = this.id;
  },
});
