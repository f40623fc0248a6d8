"""Files made to hold a reader up: each is small, and each was once answered after minutes or never."""

import numpy as np


def svg(body, style=""):
    sheet = f"<style>{style}</style>" if style else ""
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="100mm" height="100mm" viewBox="0 0 100 100">{sheet}{body}</svg>'
    ).encode()


def dxf(entities, blocks=""):
    return (
        "0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC1015\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n"
        f"0\nSECTION\n2\nBLOCKS\n{blocks}0\nENDSEC\n0\nSECTION\n2\nENTITIES\n{entities}0\nENDSEC\n0\nEOF\n"
    ).encode()


def path(points):
    return '<path d="M' + "L".join(f"{x:.3f} {y:.3f}" for x, y in points) + 'Z"/>'


def block(name, *inside):
    held = "".join(
        f"0\nINSERT\n8\n0\n2\n{one}\n10\n0\n20\n0\n70\n{times}\n71\n{times}\n44\n1\n45\n1\n" for one, times in inside
    )
    return f"0\nBLOCK\n8\n0\n2\n{name}\n70\n0\n10\n0\n20\n0\n3\n{name}\n{held}0\nENDBLK\n8\n0\n"


def star(points):
    """An outline whose every edge crosses nearly every other."""
    turn = 2 * np.pi * np.arange(points) * (points // 2) / points
    return path(50 + 45 * np.stack([np.cos(turn), np.sin(turn)], axis=1))


def tangle(points):
    return path(np.random.default_rng(3).uniform(0, 100, (points, 2)))


SQUARE = '<path d="M0 0H50V50H0Z"/>'
INSERT = "0\nINSERT\n8\n0\n2\n{}\n10\n0\n20\n0\n"
REFUSED = {
    "blanks in a transform": svg(f'<path transform="rotate({" " * 20000})" d="M0 0H50V50H0Z"/>'),
    "blanks before nothing": svg(f'<path transform="{" " * 20000}x" d="M0 0H50V50H0Z"/>'),
    "a turn beyond numbers": svg('<path transform="rotate(1e400)" d="M0 0H50V50H0Z"/>'),
    "many digits": svg(f'<rect x="{"1" * 200000}x" width="50" height="50"/>'),
    "a number of 400 digits": svg(f'<rect x="{"1" * 400}" width="50" height="50"/>'),
    "a view box beyond numbers": b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 1e400 9"><path d="M0 0h9v9z"/></svg>',
    "a sheet of braces": svg(SQUARE, "a{" * 40000),
    "groups in groups": svg("<g>" * 50000 + SQUARE + "</g>" * 50000),
    "a use of itself": svg(f'<g id="a"><use href="#a"/>{SQUARE}</g>'),
    "uses of what is skipped": svg(
        '<defs><g id="a">' + "<desc/>" * 15000 + "</g></defs>" + '<use href="#a"/>' * 19000
    ),
    "one long outline used over and over": svg(
        f'<defs><path id="a" d="M0 0{" " * 2_000_000}H9V9Z"/></defs>' + '<use href="#a"/>' * 10000
    ),
    "a star of 1001 points": svg(star(1001)),
    "2,000 points at random": svg(tangle(2000)),
    "20,000 points at random": svg(tangle(20000)),
    "a circle beyond all bounds": dxf("0\nCIRCLE\n8\n0\n10\n0\n20\n0\n40\n1e308\n"),
    "a circle of a thousand kilometres": dxf("0\nCIRCLE\n8\n0\n10\n0\n20\n0\n40\n1e9\n"),
    "an arc beyond all bounds": dxf("0\nARC\n8\n0\n10\n0\n20\n0\n40\n1e300\n50\n0\n51\n359\n"),
    "an ellipse as flat as nothing": dxf(
        "0\nELLIPSE\n8\n0\n10\n0\n20\n0\n11\n50\n21\n0\n40\n1e-300\n41\n0\n42\n6.28\n"
    ),
    "a bulge beyond all bounds": dxf(
        "0\nLWPOLYLINE\n8\n0\n100\nAcDbPolyline\n90\n3\n70\n1\n10\n0\n20\n0\n42\n1e15\n10\n50\n20\n0\n10\n50\n20\n50\n"
    ),
    "blocks of blocks": dxf(
        INSERT.format("b9"),
        block("b0") + "".join(block(f"b{nth}", (f"b{nth - 1}", 10)) for nth in range(1, 10)),
    ),
    "a block inserted a thousand million times": dxf(INSERT.format("b1"), block("b0") + block("b1", ("b0", 32000))),
    "a block that inserts itself": dxf(INSERT.format("b0"), block("b0", ("b0", 1))),
}

READ = {
    "blanks in a size": b'<svg xmlns="http://www.w3.org/2000/svg" width="1' + b" " * 200000 + b'!" height="100mm" '
    b'viewBox="0 0 100 100">' + SQUARE.encode() + b"</svg>",
    "a sheet of brackets": svg(SQUARE, "(" * 40000),
    "20,000 classes": svg(
        (f'<path class="{" ".join(f"c{nth}" for nth in range(20000))}" d="M0 0H9V9H0Z"/>') * 3,
        ",".join(f".c{nth}" for nth in range(20000)) + "{fill:red}",
    ),
    "one long rule for many": svg("<path d='M0 0H9V9H0Z'/>" * 400, "path{" + "fill:red;" * 100000 + "}"),
}
