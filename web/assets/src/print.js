// Prints the page with the browser's own dialog.
export const print = () => ({
  now() {
    window.print();
  },
});
