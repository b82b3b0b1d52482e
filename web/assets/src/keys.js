// A control with a key has it in data-key. A key pressed outside a field operates its control: it
// follows a link, presses a button, or focuses a field. The list behind "?" is built from the page.
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
    // A key that works inside a field keeps the focus there.
    if (!field) control.focus();
    if (control.matches("[data-key-focus]")) return;
    // Links in the drawing have no click method of their own.
    control.dispatchEvent(new MouseEvent("click", { bubbles: true, cancelable: true, view: window }));
  },

  // If two controls share a key, the one in the current form has precedence, then a visible one.
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
