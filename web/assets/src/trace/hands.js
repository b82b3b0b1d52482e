import { LEFT } from "./axes.js";

// What fingers and a mouse do to a drawing: one drags, two pinch, a press without a drag sets a
// cursor, and the wheel zooms.
export const hands = (board, own, does) => {
  const held = new Map();
  let moved = false;
  const width = () => own.wide - LEFT - 8;
  const place = (event) => {
    const box = own.canvas.getBoundingClientRect();
    return Math.min(1, Math.max(0, (event.clientX - box.left - LEFT) / width()));
  };
  const apart = () => {
    const at = [...held.values()];
    return Math.abs(at[0] - at[1]);
  };
  board.addEventListener("wheel", (event) => {
    event.preventDefault();
    does.zoom(event.deltaY > 0 ? 1.25 : 0.8, place(event));
  }, { passive: false });
  board.addEventListener("pointerdown", (event) => {
    held.set(event.pointerId, event.clientX);
    moved = false;
    board.setPointerCapture(event.pointerId);
  });
  board.addEventListener("pointermove", (event) => {
    if (!held.has(event.pointerId)) return;
    if (held.size === 1) {
      const by = event.clientX - held.get(event.pointerId);
      if (Math.abs(by) < 3 && !moved) return;
      moved = true;
      held.set(event.pointerId, event.clientX);
      does.pan((-by / width()) * (own.view.to - own.view.from));
      return;
    }
    const before = apart();
    held.set(event.pointerId, event.clientX);
    const after = apart();
    moved = true;
    if (before > 10 && after > 10) does.zoom(before / after, 0.5);
  });
  const up = (event) => {
    if (!held.delete(event.pointerId) || moved || event.type !== "pointerup") return;
    does.mark(event.shiftKey ? "b" : "a", own.view.from + place(event) * (own.view.to - own.view.from));
  };
  for (const name of ["pointerup", "pointercancel", "pointerleave"]) board.addEventListener(name, up);
};
