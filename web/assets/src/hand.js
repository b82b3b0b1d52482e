// What came into the hand: one tap says that all not chosen yet looks sound.
export const hand = () => ({
  sound() {
    for (const field of this.$root.querySelectorAll("select")) {
      if (!field.value) field.selectedIndex = 1;
    }
  },
});
