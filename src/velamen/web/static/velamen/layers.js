// What is sewn, painted in portions, one a frame: the last whole picture is shown, moved along with the view, until the
// next one is there, so that no frame waits for a hundred thousand stitches.

const PORTION = { least: 1000, first: 2500, most: 5000 }; // stitches a frame
const SHORT = 20, LONG = 28; // ms of a frame, under which portions grow and over which they shrink

export class Layers {
  // sewing(context, from, to, place): paints what is sewn and laid between two rows, and tells at each step how many
  // stitches that were; follows(painted, row): whether that may go on from so many rows.
  constructor(sewing, follows) {
    this.sewing = sewing;
    this.follows = follows;
    this.front = newLayer();
    this.back = newLayer();
    this.portion = PORTION.first;
    this.last = null; // when the frame before was painted, while there is more to paint
  }

  // A canvas paints what it is told once the frame is done: only the next one tells how long that took.
  learn(now) {
    const took = this.last === null ? 0 : now - this.last;
    this.last = now;
    if (took > LONG) this.portion = Math.max(this.portion * 0.6, PORTION.least);
    else if (took > 0 && took < SHORT) this.portion = Math.min(this.portion * 1.1, PORTION.most);
  }

  resize(width, height) {
    for (const { canvas } of [this.front, this.back]) {
      if (canvas.width !== width) canvas.width = width;
      if (canvas.height !== height) canvas.height = height;
    }
  }

  // Paints on towards a row in a view, { look, scale, x, y, place }, so many stitches; whether all of it is there.
  // A picture that is begun is finished although the view has moved on: it is nearer to it than the one before.
  advance(view, row, portion = this.portion) {
    let left = portion;
    for (;;) {
      const inPlace = same(this.front.view, view) && this.follows(this.front.painted, row);
      const layer = inPlace ? this.front : this.back;
      if (inPlace && !layer.work && layer.painted === row) {
        this.last = null;
        return true;
      }
      if (!inPlace && (!layer.begun || layer.view.look !== view.look)) begin(layer, view, row);
      if (!layer.work) {
        const to = inPlace ? row : layer.goal;
        layer.work = this.sewing(layer.context, layer.painted, to, layer.view);
        layer.painted = to;
      }
      if (left <= 0) return false;
      const { value = 0, done } = layer.work.next();
      left -= value;
      if (!done) continue;
      layer.work = null;
      if (!inPlace) {
        layer.begun = false;
        [this.front, this.back] = [this.back, this.front];
      }
    }
  }

  // The last whole picture, where it lies in a view by now.
  paint(context, view) {
    const { canvas, view: drawn } = this.front;
    if (!drawn) return;
    const times = view.scale / drawn.scale, across = canvas.width / 2, down = canvas.height / 2;
    context.setTransform(times, 0, 0, times, across * (1 - times) + (drawn.x - view.x) * view.scale, down * (1 - times) + (drawn.y - view.y) * view.scale);
    context.drawImage(canvas, 0, 0);
    context.setTransform(1, 0, 0, 1, 0, 0);
  }
}

function newLayer() {
  const canvas = document.createElement("canvas");
  return { canvas, context: canvas.getContext("2d"), view: null, painted: 0, goal: 0, begun: false, work: null };
}

function same(one, other) {
  return one !== null && one.look === other.look && one.scale === other.scale && one.x === other.x && one.y === other.y;
}

function begin(layer, view, row) {
  const { context, canvas } = layer;
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, canvas.width, canvas.height);
  context.setTransform(view.scale, 0, 0, view.scale, canvas.width / 2 - view.x * view.scale, canvas.height / 2 - view.y * view.scale);
  Object.assign(layer, { view, painted: 0, goal: row, begun: true, work: null });
}
