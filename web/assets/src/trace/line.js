import { y } from "./axes.js";

// ink chooses the colour and the width of what is drawn next.
export const ink = (pen, tone, width) => {
  pen.strokeStyle = tone;
  pen.fillStyle = tone;
  pen.lineWidth = width;
};

// stroke draws a window of least and greatest values. The stretch from one time to another, in
// seconds, fills the width from x0 on.
export const stroke = (pen, w, area, from, to, x0, wide) => {
  const n = w.low.length;
  if (!n) return;
  const x = (i) => x0 + (wide * (w.from + ((i + 0.5) / n) * (w.to - w.from) - from)) / (to - from);
  const first = Math.max(0, Math.floor(((from - w.from) / (w.to - w.from)) * n) - 1);
  const last = Math.min(n - 1, Math.ceil(((to - w.from) / (w.to - w.from)) * n) + 1);
  pen.save();
  pen.beginPath();
  pen.rect(x0, area.y - 2, wide, area.h + 4);
  pen.clip();
  pen.beginPath();
  for (let i = first; i <= last; i++) pen.lineTo(x(i), y(area, w.high[i]));
  for (let i = last; i >= first; i--) pen.lineTo(x(i), y(area, w.low[i]));
  pen.closePath();
  pen.fill();
  pen.stroke();
  pen.restore();
};
