// Items that came off: one tap marks all unmarked ones as sound.
export const hand = () => ({
  sound() {
    for (const field of this.$root.querySelectorAll("select")) {
      if (!field.value) field.selectedIndex = 1;
    }
  },
});
