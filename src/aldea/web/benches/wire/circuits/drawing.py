"""Special circuits drawn with schemdraw, symbols after usual IEC practice, as SVG for our policy.

schemdraw writes inline style, which the content policy forbids: it is turned into attributes. The
drawing being made and its style belong to the whole process there: one at a time, or two pages
asked for at once get each other's elements.
"""

import re
from functools import lru_cache
from threading import Lock
from typing import Any
from xml.etree import ElementTree

INK, PLATE = "var(--ink)", "var(--plate)"
SIDE = 34
SVG = "http://www.w3.org/2000/svg"
VIEW_BOX = re.compile(r'viewBox="([^"]*)"')
PREFIX = re.compile(r"(?<=<)ns\d+:|(?<=</)ns\d+:|(?<=xmlns):ns\d+")
STYLE = re.compile(r'style="([^"]*)"')


def circuit_svg(draws: str, values: dict[str, str]) -> str:
    """The drawing of a circuit as an SVG element; empty for a kind that is not drawn."""
    return _drawn(draws, tuple(sorted(values.items())))


_one_at_a_time = Lock()


@lru_cache(maxsize=256)
def _drawn(draws: str, values: tuple[tuple[str, str], ...]) -> str:
    make = DRAWINGS.get(draws)
    if make is None:
        return ""
    with _one_at_a_time:
        import schemdraw  # noqa: PLC0415  a third of a second, for this bench alone
        from schemdraw import elements as elm  # noqa: PLC0415

        ElementTree.register_namespace("", SVG)
        schemdraw.use("svg")
        elm.style(elm.STYLE_IEC)  # type: ignore[no-untyped-call]
        with schemdraw.Drawing(show=False) as drawing:
            drawing.config(unit=1.7, fontsize=12, lw=1.3, inches_per_unit=0.42)
            make(drawing, elm, dict(values))
        svg = drawing.get_imagedata("svg").decode()
    return _ours(svg)


def _ours(svg: str) -> str:
    def attributes(match: re.Match[str]) -> str:
        pairs = [part.split(":", 1) for part in match[1].split(";") if ":" in part]
        kept = [(k.strip(), v.strip()) for k, v in pairs if v.strip() != "-"]
        return " ".join(f'{key}="{value}"' for key, value in kept)

    # The nameless prefix belongs to the process, too: printing a sheet may take it at any moment.
    svg = PREFIX.sub("", svg)
    svg = STYLE.sub(attributes, svg)
    svg = svg.replace('"black"', f'"{INK}"').replace('"white"', f'"{PLATE}"')
    svg = re.sub(r'font-family="[^"]*"', "", svg)
    box = VIEW_BOX.search(svg)
    if box is None:
        return svg
    x, y, width, height = (float(part) for part in box[1].split())
    # Our letters are wider than the ones that schemdraw measures with.
    x, width, y, height = x - SIDE, width + 2 * SIDE, y - 3, height + 6
    size = f'width="{width:.0f}" height="{height:.0f}" viewBox="{x:.1f} {y:.1f} {width:.1f} '
    return f'<svg aria-hidden="true" {size}{height:.1f}">' + svg[svg.index(">") + 1 :]


def _divider(d: Any, elm: Any, v: dict[str, str]) -> None:
    sensor, fixed = v.get("sensor", ""), v.get("fixed", "")
    high = v.get("side") == "sensor_high"
    d += elm.Dot(open=True).label("+ ref", loc="left")
    top, bottom = (sensor, fixed) if high else (fixed, sensor)
    d += (elm.Thermistor() if high else elm.Resistor()).down().label(top, loc="bottom")
    d += elm.Dot()
    d.push()
    d += elm.Line().right().length(1.2)
    d += elm.Dot(open=True).label("pin", loc="right")
    d.pop()
    d += (elm.Resistor() if high else elm.Thermistor()).down().label(bottom, loc="bottom")
    d += elm.Dot(open=True).label("0 V", loc="left")


NODES = {"excite": "excite", "reference": "+ ref", "zero": "0 V"}


def _leak(d: Any, elm: Any, v: dict[str, str]) -> None:
    """What feeds it at the top, 0 V at the bottom, the pin between tape and fixed resistor."""
    above = v.get("fixed_to") == "zero"  # the tape stands above the pin
    fed = v.get("tape_to" if above else "fixed_to", "")
    d += elm.Dot(open=True).label(NODES.get(fed, fed), loc="left")
    parts = (_tape, _fixed) if above else (_fixed, _tape)
    parts[0](d, elm, v)
    d += elm.Dot()
    d.push()
    d += elm.Line().left().length(1.0)
    d += elm.Dot(open=True).label("pin", loc="left")
    d.pop()
    parts[1](d, elm, v)
    d += elm.Dot(open=True).label("0 V", loc="left")


def _fixed(d: Any, elm: Any, v: dict[str, str]) -> None:
    d += elm.Resistor().down().label(v.get("fixed", ""), loc="bottom")


def _tape(d: Any, elm: Any, v: dict[str, str]) -> None:
    """Two wires out to the right, and across their far end its resistor, or nothing."""
    d += elm.Line().right().length(2.4).label("tape", loc="top")
    if v.get("end") == "open":
        d += elm.Dot(open=True).label("open", loc="right")
        d.move(0, -1.7)
        d += elm.Dot(open=True)
    else:
        d += elm.Resistor().down().label(v.get("end", ""), loc="bottom")
    d += elm.Line().left().length(2.4)


def _level(d: Any, elm: Any, v: dict[str, str]) -> None:
    d += elm.Dot(open=True).label("sensor", loc="left")
    d += elm.Resistor().right().label(v.get("upper", ""), loc="top")
    d += elm.Dot()
    d.push()
    d += elm.Line().right().length(1.0)
    d += elm.Dot(open=True).label("pin", loc="right")
    d.pop()
    d += elm.Resistor().down().label(v.get("lower", ""), loc="bottom")
    d += elm.Dot(open=True).label("0 V", loc="left")


def _two_way(d: Any, elm: Any, v: dict[str, str]) -> None:
    d += elm.Dot(open=True).label("L", loc="left")
    d += elm.Line().right().length(0.6)
    relay = elm.SwitchSpdt2().right().anchor("a").label(v.get("relay", "K"), loc="top")
    d += relay
    wall = elm.SwitchSpdt2().flip().reverse().at((relay.absanchors["b"][0] + 2.4, 0)).anchor("b")
    d += wall
    d += elm.Line().at(relay.absanchors["b"]).to(wall.absanchors["c"])
    d += elm.Line().at(relay.absanchors["c"]).to(wall.absanchors["b"])
    d += elm.Line().at(wall.absanchors["a"]).right().length(0.6)
    d += elm.Lamp().right().label(v.get("load", "")[:18], loc="top")
    d += elm.Dot(open=True).label("N", loc="right")


def _stepped(d: Any, elm: Any, v: dict[str, str]) -> None:
    d += elm.Dot(open=True).label("L", loc="left")
    d += elm.Line().right().length(0.5)
    roles = [key for key in v if key != "load"]
    for index, role in enumerate([*roles, "direct"]):
        d.push()
        if index:
            d += elm.Line().down().length(1.2 * index)
        d += elm.Switch().right().length(1.7).label(role, loc="top")
        if role in v:
            d += elm.Capacitor().right().length(1.7).label(v[role], loc="top")
        else:
            d += elm.Line().right().length(1.7)
        if index:
            d += elm.Line().up().length(1.2 * index)
        d.pop()
    d.move(3.4, 0)
    d += elm.Line().right().length(0.5)
    d += elm.Motor().right()
    d += elm.Dot(open=True).label("N", loc="right")


def _drive(d: Any, elm: Any, _v: dict[str, str]) -> None:
    d += elm.Dot(open=True).label("button 1", loc="left")
    d += elm.Line().right().length(0.8)
    d += elm.Dot()
    d.push()
    d += elm.Button().right().length(2.2).label("its own button", loc="top")
    d.pop()
    d.push()
    d += elm.Line().down().length(1.4)
    d += elm.Switch().right().length(2.2).label("relay 11 – 14", loc="bottom")
    d += elm.Line().up().length(1.4)
    d += elm.Dot()
    d += elm.Line().right().length(0.8)
    d += elm.Dot(open=True).label("button 2", loc="right")
    d.pop()


def _serial(d: Any, elm: Any, _v: dict[str, str]) -> None:
    left = ((0.0, 0.0, "TX"), (0.0, -1.4, "RX"))
    for x, y, name in left:
        d += elm.Dot(open=True).at((x, y)).label(f"sensor {name}", loc="left")
        d += elm.Dot(open=True).at((3.2, y)).label(f"pin {name.lower()}", loc="right")
    d += elm.Line().at((0.0, 0.0)).to((3.2, -1.4))
    d += elm.Line().at((0.0, -1.4)).to((3.2, 0.0))


def _button(d: Any, elm: Any, v: dict[str, str]) -> None:
    d += elm.Dot(open=True).label("logic +", loc="left")
    d += elm.Resistor().down().label(v.get("pull", ""), loc="bottom")
    d += elm.Dot()
    d.push()
    d += elm.Line().right().length(1.2)
    d += elm.Dot(open=True).label("pin", loc="right")
    d.pop()
    d += elm.Button().down().length(1.7)
    d += elm.Dot(open=True).label("0 V", loc="left")


def _driver(d: Any, elm: Any, v: dict[str, str]) -> None:
    d += elm.Dot(open=True).label("pin", loc="left")
    d += elm.Resistor().right().label(v.get("base", ""), loc="top")
    transistor = elm.BjtNpn(circle=False).right().anchor("base")
    d += transistor
    d += elm.Line().at(transistor.absanchors["emitter"]).down().length(0.4)
    d += elm.Dot(open=True).label("0 V", loc="right")
    d += elm.Dot().at(transistor.absanchors["collector"])
    d.push()
    d += elm.Inductor().up().label(v.get("relay", "coil"), loc="bottom")
    d += elm.Dot(open=True).label("+", loc="left")
    d.pop()
    d += elm.Line().right().length(1.6)
    d += elm.Diode().up().label("flyback", loc="bottom")
    d += elm.Line().left().length(1.6)


DRAWINGS = {
    "divider": _divider,
    "leak": _leak,
    "level": _level,
    "two_way": _two_way,
    "stepped": _stepped,
    "drive": _drive,
    "serial": _serial,
    "button": _button,
    "driver": _driver,
}
