// A pad of big digits for gloved fingers. It types into the number field that
// was touched last and steps on to the next one.
export const pad = () => ({
  at: null,

  init() {
    this.at = this.fields()[0] || null;
    this.$root.addEventListener("focusin", (event) => {
      if (event.target.matches("[data-pad]")) this.at = event.target;
    });
  },

  fields() {
    return [...this.$root.querySelectorAll("[data-pad]")];
  },

  type(event) {
    if (!this.at) return;
    const digit = event.currentTarget.dataset.digit;
    this.at.value = digit === "back" ? this.at.value.slice(0, -1) : this.at.value + digit;
    this.at.dispatchEvent(new Event("input", { bubbles: true }));
  },

  next() {
    const all = this.fields();
    this.at = all[(all.indexOf(this.at) + 1) % all.length];
    this.at.focus();
    this.at.select();
  },
});
