// A pad of large digits for gloved fingers, and keys for the keyboard. The pad types into the field
// that was focused last. Enter goes to the next field, Backspace in an empty field goes back. One
// key reads an instrument, if there is one, into the row of the field.
export const pad = () => ({
  at: null,
  silent: false,

  init() {
    this.at = this.fields().find((f) => f.autofocus) || this.fields()[0] || null;
    this.$root.addEventListener("focusin", (event) => {
      if (event.target.matches("[data-pad], [data-tester]")) this.at = event.target;
    });
  },

  fields() {
    return [...this.$root.querySelectorAll("[data-pad]")];
  },

  type(event) {
    if (!this.at) return;
    const digit = event.currentTarget.dataset.digit;
    if (digit === "back") this.at.value = this.at.value.slice(0, -1);
    else if (digit === "OL") this.at.value = "OL";
    else this.at.value += digit;
    this.at.dispatchEvent(new Event("input", { bubbles: true }));
  },

  press(event) {
    if (!event.target.matches("[data-pad]")) return;
    if (event.key === "Enter") {
      event.preventDefault();
      if (event.type === "keypress") return; // the other half of one press: it sends no form
      const all = this.fields();
      if (all.indexOf(event.target) < all.length - 1) this.step(event.target, 1);
      else this.$root.closest("form").querySelector("button.do").focus();
    }
    if (event.key === "Backspace" && event.target.value === "" && this.fields().indexOf(event.target) > 0) {
      event.preventDefault();
      this.step(event.target, -1);
    }
  },

  step(from, by) {
    const all = this.fields();
    this.at = all[(all.indexOf(from) + by + all.length) % all.length];
    this.at.focus();
    this.at.select();
  },

  next() {
    this.step(this.at, 1);
  },

  async read(event) {
    const row = this.at && this.at.closest("[data-row]") || this.$root.querySelector("[data-row]");
    const form = row.closest("form");
    const asked = new URL(event.currentTarget.dataset.standin, location.href);
    for (const name of ["tester", "gap", "from", "running", "altitude", "air"]) {
      const value = new FormData(form).get(name);
      if (value) asked.searchParams.set(name, value);
    }
    asked.searchParams.set("on", row.dataset.row);
    try {
      const answer = await fetch(asked);
      if (!answer.ok) throw new Error(answer.statusText);
      for (const [name, value] of Object.entries(await answer.json())) {
        for (const field of form.querySelectorAll(`[name="${CSS.escape(name)}"]`)) {
          if (field.type === "radio" || field.type === "checkbox") field.checked = field.value === value;
          else field.value = value;
        }
      }
      this.silent = false;
    } catch {
      this.silent = true;
      return;
    }
    form.dispatchEvent(new Event("input", { bubbles: true }));
    const rows = [...this.$root.querySelectorAll("[data-row]")];
    const following = rows[rows.indexOf(row) + 1];
    if (following) {
      this.at = following.querySelector("[data-figure], [data-tester]");
      this.at.focus();
    }
  },
});
