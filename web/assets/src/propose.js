import { redraw } from "./redraw.js";

// Proposals from the complaint are listed under it. A tap sets the field; nothing is set without one.
export const propose = () => ({
  ...redraw(),

  init() {
    redraw().init.call(this);
    this.$root.addEventListener("click", (event) => {
      const button = event.target.closest("button[data-field]");
      if (!button) return;
      event.preventDefault();
      this.set(button.dataset.field, button.dataset.value);
    });
  },

  set(name, value) {
    const form = this.$root.closest("form");
    for (const field of form.elements[name].forEach ? form.elements[name] : [form.elements[name]]) {
      if (field.matches("select")) field.value = value;
      else if (field.value === value) {
        field.checked = true;
        field.closest("details").open = true;
      }
    }
    form.dispatchEvent(new Event("change", { bubbles: true }));
  },
});
