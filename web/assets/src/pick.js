// A touch on a scaled photo: the point is converted to the size that the server expects.
export const pick = () => ({
  at(event) {
    const shown = this.$el.getBoundingClientRect();
    if (!event.detail) return; // a key: the fields say where
    event.preventDefault();
    const form = this.$el.form;
    const to = form.elements.what.value === "white" ? "w" : "n";
    form.elements[`${to}x`].value = ((100 * (event.clientX - shown.left)) / shown.width).toFixed(1);
    form.elements[`${to}y`].value = ((100 * (event.clientY - shown.top)) / shown.height).toFixed(1);
    form.requestSubmit();
  },
});
