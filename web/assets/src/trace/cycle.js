import { milliseconds, y } from "./axes.js";
import { ink, stroke } from "./line.js";

// The drawings of one engine cycle: every cylinder's event about its own peak.

// about strokes the event of a cylinder with its peak at the place of time 0.
const about = (pen, s, area, view, x0, wide) => {
  stroke(pen, s.window, area, s.event.at + view.from / 1000, s.event.at + view.to / 1000, x0, wide);
};

// row draws the cylinders end to end, in firing order.
export const row = (pen, colour, area, own) => {
  const shapes = own.data.shapes;
  const wide = area.w / Math.max(1, shapes.length);
  shapes.forEach((s, i) => {
    const x = area.x + wide * i;
    const mine = s.event.cylinder === own.cylinder;
    ink(pen, mine ? colour.rowan : colour.fell, 1.3);
    about(pen, s, area, own.view, x + 3, wide - 6);
    pen.textAlign = "center";
    pen.fillStyle = mine ? colour.rowan : colour.peat;
    pen.fillText(wide > 74 ? `${s.event.cylinder}: ${s.event.kv.toFixed(1)} kV` : `${s.event.cylinder}`, x + wide / 2, area.y + area.h + 18);
  });
};

// over lays the cylinders over each other, the chosen one in front.
export const over = (pen, colour, area, own) => {
  const front = (s) => s.event.cylinder === own.cylinder;
  const shapes = own.data.shapes;
  for (const s of [...shapes.filter((o) => !front(o)), ...shapes.filter(front)]) {
    ink(pen, front(s) ? colour.rowan : colour.stone, front(s) ? 2.2 : 1);
    about(pen, s, area, own.view, area.x, area.w);
  }
  milliseconds(pen, colour, area, own.view, 1);
  pen.textAlign = "right";
  pen.fillStyle = colour.rowan;
  pen.fillText(`in front: cylinder ${own.cylinder}`, area.x + area.w, area.y + 6);
};

// MARGIN is the room for the figures at the right of a stack.
export const MARGIN = 70;

// stack draws the cylinders below each other, in firing order.
export const stack = (pen, colour, area, own) => {
  const shapes = own.data.shapes;
  const tall = area.h / Math.max(1, shapes.length);
  shapes.forEach((s, i) => {
    const line = { ...area, y: area.y + tall * i, h: tall - 4 };
    const mine = s.event.cylinder === own.cylinder;
    ink(pen, mine ? colour.rowan : colour.fell, mine ? 2 : 1.2);
    about(pen, s, line, own.view, area.x, area.w - MARGIN);
    pen.textAlign = "right";
    pen.fillStyle = mine ? colour.rowan : colour.peat;
    pen.fillText(`${mine ? "▲ " : ""}${s.event.cylinder}`, area.x - 8, y(line, 0));
    pen.textAlign = "left";
    pen.fillText(`${s.event.kv.toFixed(1)} kV`, area.x + area.w - 62, y(line, 0));
  });
  milliseconds(pen, colour, { ...area, w: area.w - MARGIN }, own.view, 1);
};

// cycleWords says which cycle is shown.
export const cycleWords = (own) => `cycle ${own.data.cycle + 1} of ${own.data.cycles}`;
