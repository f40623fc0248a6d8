// A cutting die in hand: every click on the board places it once more, until it is let go.

const SVG = "http://www.w3.org/2000/svg";

export class Stamp {
  constructor({ onPlaced, onTurned }) {
    this.onPlaced = onPlaced;
    this.onTurned = onTurned;
    this.die = ""; // key of the one in hand
  }

  get on() {
    return Boolean(this.die);
  }

  // Takes a die in hand, or lets go of it; d: its outline in mm, about its middle.
  turn(die, d = "") {
    this.die = this.die === die ? "" : die;
    this.d = d;
    this.ghost?.remove();
    this.onTurned();
  }

  // Buttons that take a die: by the mouse in hand, by a key at once into the middle of the field.
  attach(root) {
    for (const button of root.querySelectorAll("button[data-die]")) {
      button.addEventListener("click", (event) => {
        if (event.detail) this.turn(button.dataset.die, button.querySelector("path").getAttribute("d"));
        else this.onPlaced(button.dataset.die, { x: 0, y: 0 });
      });
    }
    this.shown(root);
  }

  shown(root) {
    for (const button of root.querySelectorAll("button[data-die]")) button.setAttribute("aria-pressed", String(button.dataset.die === this.die));
  }

  key(event) {
    if (event.key !== "Escape") return false;
    this.turn("");
    return true;
  }

  listen(board) {
    board.svg.addEventListener("pointermove", (event) => this.on && this.follow(board, event));
    board.svg.addEventListener("pointerleave", () => this.ghost?.remove());
    board.svg.addEventListener("pointerdown", (event) => {
      if (this.on && event.button === 0 && !event.altKey) this.onPlaced(this.die, this.at(board, event));
    });
  }

  at(board, event) {
    const at = board.place(event);
    board.snap.gather(board.paths, [], board.field);
    return board.snap.active(event) ? board.snap.place(at, board.grain) : at;
  }

  // The die under the pointer.
  follow(board, event) {
    const { x, y } = board.place(event), px = board.grain;
    this.ghost ??= document.createElementNS(SVG, "path");
    for (const [name, value] of Object.entries({ d: this.d, transform: `translate(${x} ${y})`, fill: "#b3392f33", stroke: "#b3392f", "stroke-width": 1.6 * px, "fill-rule": "evenodd", "pointer-events": "none" })) this.ghost.setAttribute(name, value);
    board.svg.append(this.ghost);
  }
}
