import { CENTI } from "./axes.js";
import { cycleWords, MARGIN } from "./cycle.js";
import { ink } from "./line.js";

const names = ["a", "b"];

// cursors draws the two cursors, and returns what lies under and between them.
export const cursors = (pen, colour, area, own) => {
  const w = own.kind === "stack" ? area.w - MARGIN : area.w;
  const x = (t) => area.x + (w * (t - own.view.from)) / (own.view.to - own.view.from);
  for (const name of names) {
    if (own[name] === null) continue;
    const at = x(own[name]);
    if (at < area.x || at > area.x + w) continue;
    ink(pen, colour.loch, 1.5);
    pen.setLineDash(name === "a" ? [] : [5, 4]);
    pen.beginPath();
    pen.moveTo(at, area.y);
    pen.lineTo(at, area.y + area.h);
    pen.stroke();
    pen.setLineDash([]);
    pen.textAlign = "left";
    pen.fillText(name.toUpperCase(), at + 4, area.y + area.h - 4);
  }
  return cursorWords(own);
};

// kilovoltsAt is what the drawing shows at a time, or null outside it.
const kilovoltsAt = (own, t) => {
  const mine = own.single ? null : own.data.shapes.find((s) => s.event.cylinder === own.cylinder);
  const win = own.single ? own.data : mine?.window;
  if (!win) return null;
  const seconds = own.single ? t : mine.event.at + t / 1000;
  const i = Math.floor(((seconds - win.from) / (win.to - win.from)) * win.low.length);
  if (!(i >= 0 && i < win.low.length)) return null;
  return (Math.abs(win.low[i]) > Math.abs(win.high[i]) ? win.low[i] : win.high[i]) * CENTI;
};

const cursorWords = (own) => {
  const unit = own.single ? 1000 : 1;
  const said = [];
  for (const name of names) {
    if (own[name] === null) continue;
    const v = kilovoltsAt(own, own[name]);
    said.push(`${name.toUpperCase()} ${(own[name] * unit).toFixed(3)} ms${v === null ? "" : `, ${v.toFixed(2)} kV`}`);
  }
  if (own.a !== null && own.b !== null) {
    const apart = Math.abs(own.b - own.a) * unit;
    const [va, vb] = [kilovoltsAt(own, own.a), kilovoltsAt(own, own.b)];
    const kV = va === null || vb === null ? "" : `, ${(vb - va).toFixed(2)} kV`;
    said.push(`between ${apart.toFixed(3)} ms${kV}${apart > 0 ? `, ${Math.round(1000 / apart)} Hz` : ""}`);
  }
  if (!said.length) said.push(own.single ? `${(1000 * own.view.from).toFixed(1)} to ${(1000 * own.view.to).toFixed(1)} ms` : cycleWords(own));
  return said.join(" · ");
};
