// Surfaces of bases and cloths as patterns: tiles of light that the server has worked out, in sizes for every zoom.

const TILE = 12; // mm that a tile shows
const SMALLEST = 6; // px

export class Surfaces {
  // loaded: told once a tile has come.
  constructor(loaded) {
    this.loaded = loaded;
    this.tiles = new Map(); // by surface: canvases, each half the size of the one before
  }

  // A pattern in mm for so many px a mm, null while its tile is on its way.
  pattern(context, surface, scale) {
    if (!this.tiles.has(surface)) this.fetch(surface);
    const sizes = this.tiles.get(surface);
    if (!sizes.length) return null;
    const tile = sizes.find((one) => one.width <= 0.8 * TILE * scale) ?? sizes.at(-1); // finer ones would shimmer
    const pattern = context.createPattern(tile, "repeat");
    pattern.setTransform(new DOMMatrix().scale(TILE / tile.width));
    return pattern;
  }

  fetch(surface) {
    const sizes = [], image = new Image();
    this.tiles.set(surface, sizes);
    image.addEventListener("load", () => {
      for (let side = image.width, from = image; side >= SMALLEST; side = Math.floor(side / 2)) {
        const canvas = document.createElement("canvas");
        canvas.width = canvas.height = side;
        canvas.getContext("2d").drawImage(from, 0, 0, side, side);
        sizes.push((from = canvas));
      }
      this.loaded();
    });
    image.src = new URL(`./surfaces/${surface}.png`, import.meta.url);
  }
}
