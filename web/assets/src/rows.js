// Taps that fill the first empty code field.
export const rows = () => ({
  fill(event) {
    const fields = [...this.$root.querySelectorAll("[data-code]")];
    const code = event.currentTarget.dataset.value;
    if (fields.some((f) => f.value.trim().toUpperCase() === code)) return;
    const empty = fields.find((f) => f.value.trim() === "");
    if (!empty) return;
    empty.value = code;
    empty.dispatchEvent(new Event("input", { bubbles: true }));
  },
});
