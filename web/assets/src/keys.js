// Every control that has a key carries it in data-key. A key pressed outside a
// field works that control: a link is followed, a button pressed, a field
// focused. The list behind "?" is read off the page, so it is never out of date.
export const keys = () => ({
  init() {
    document.addEventListener("keydown", (event) => this.press(event));
  },

  press(event) {
    if (event.ctrlKey || event.altKey || event.metaKey || event.defaultPrevented) return;
    const field = event.target.closest("input:not([type=checkbox],[type=radio]), textarea, select");
    if (event.key === "Escape") {
      if (field) field.blur();
      return;
    }
    if (field && !/^F\d/.test(event.key) || this.$refs.list.open) return;
    if (event.key === "?") {
      event.preventDefault();
      this.show();
      return;
    }
    const control = this.find(event.key);
    if (!control) return;
    event.preventDefault();
    // A key that works from within a field leaves the hand where it is.
    if (!field) control.focus();
    if (control.matches("[data-key-focus]")) return;
    // Links in the drawing have no click method of their own.
    control.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true, view: window }));
  },

  // Where two controls share a key, the one of the work in hand has it.
  find(key) {
    const named = `[data-key="${CSS.escape(key)}"]`;
    const all = [...document.querySelectorAll(`[data-first] ${named}`), ...document.querySelectorAll(named)];
    return all.find((control) => control.checkVisibility()) || all[0];
  },

  show() {
    const body = this.$refs.keys;
    body.replaceChildren();
    for (const control of document.querySelectorAll("[data-key]")) {
      if (this.find(control.dataset.key) !== control) continue;
      const row = document.createElement("tr");
      const key = document.createElement("kbd");
      key.textContent = control.dataset.key;
      row.insertCell().append(key);
      row.insertCell().textContent = control.dataset.does || control.getAttribute("aria-label") || control.textContent.trim();
      body.append(row);
    }
    this.$refs.list.showModal();
  },

  hide() {
    this.$refs.list.close();
  },
});
