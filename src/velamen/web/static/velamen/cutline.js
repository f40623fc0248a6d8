// The cut on the cloth: where the stack is cut for the Section view; follows the needle until it is placed.

const REACH = 12; // px round a handle
const ARM = 46; // px from the middle to either handle

export class CutLine {
  constructor(onMove) {
    this.onMove = onMove;
    this.placed = false;
    this.x = this.y = 0;
    this.angle = 0;
  }

  // The needle moves; a cut that nobody has placed goes along.
  follow(x, y) {
    if (this.placed) return;
    this.x = x;
    this.y = y;
    this.onMove(this);
  }

  place(on) {
    this.placed = on;
    this.onMove(this);
  }

  turn(degrees) {
    this.angle = (this.angle + (degrees * Math.PI) / 180) % Math.PI;
    this.onMove(this);
  }

  shift(x, y) {
    this.x += x;
    this.y += y;
    this.placed = true;
    this.onMove(this);
  }

  // What a pointer at a place in mm would take hold of: the middle, an end, or nothing.
  grip(spot, scale) {
    if (!this.placed) return null;
    const far = (x, y) => Math.hypot(spot.x - x, spot.y - y) * scale;
    if (far(this.x, this.y) <= REACH) return "middle";
    for (const side of [1, -1]) {
      const arm = (side * ARM) / scale;
      if (far(this.x + arm * Math.cos(this.angle), this.y + arm * Math.sin(this.angle)) <= REACH) return side === 1 ? "head" : "tail";
    }
    return null;
  }

  drag(grip, spot) {
    if (grip === "middle") {
      this.x = spot.x;
      this.y = spot.y;
    } else {
      const way = grip === "head" ? 1 : -1;
      this.angle = Math.atan2(way * (spot.y - this.y), way * (spot.x - this.x));
    }
    this.onMove(this);
  }

  paint(context, scale, length) {
    const cos = Math.cos(this.angle), sin = Math.sin(this.angle);
    const half = length / 2;
    context.lineCap = "butt";
    for (const [width, style] of [[3.4, "#fffdf8"], [1.6, "#b3392f"]]) {
      context.strokeStyle = style;
      context.lineWidth = width / scale;
      context.beginPath();
      context.moveTo(this.x - half * cos, this.y - half * sin);
      context.lineTo(this.x + half * cos, this.y + half * sin);
      context.stroke();
    }
    if (!this.placed) return;
    const arm = ARM / scale;
    context.lineWidth = 1.4 / scale;
    context.setLineDash([4 / scale, 4 / scale]);
    context.beginPath();
    context.moveTo(this.x - arm * cos, this.y - arm * sin);
    context.lineTo(this.x + arm * cos, this.y + arm * sin);
    context.stroke();
    context.setLineDash([]);
    for (const [at, radius] of [[0, 7], [ARM / scale, 5], [-ARM / scale, 5]]) {
      context.beginPath();
      context.arc(this.x + at * cos, this.y + at * sin, radius / scale, 0, 2 * Math.PI);
      context.fillStyle = at === 0 ? "#b3392f" : "#fffdf8";
      context.fill();
      context.strokeStyle = at === 0 ? "#fffdf8" : "#b3392f";
      context.lineWidth = 2 / scale;
      context.stroke();
    }
  }
}
