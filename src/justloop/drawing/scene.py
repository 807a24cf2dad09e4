"""A drawing as a list of shapes, written out by string join for screen or paper."""

from dataclasses import dataclass, field
from html import escape

from .palette import literal


@dataclass
class Scene:
    """Shapes in user units (CSS pixels), first drawn first."""

    width: float
    height: float
    label: str
    parts: list[tuple[str, dict[str, str], str]] = field(default_factory=list)
    texts: list[str] = field(default_factory=list)

    def add(self, tag: str, names: str, content: str = "", **attributes) -> None:
        """A shape with class ``names``; attribute underscores become hyphens."""
        shown = {k.replace("_", "-"): _number(v) for k, v in attributes.items() if v is not None}
        self.parts.append((tag, {"class": names, **shown}, content))

    def path(self, names: str, d: str, **attributes) -> None:
        """An SVG path."""
        self.add("path", names, d=d, **attributes)

    def line(self, names: str, *points: tuple[float, float], **attributes) -> None:
        """An open line through points."""
        d = "M" + " L".join(f"{_number(x)} {_number(y)}" for x, y in points)
        self.path(names, d, **attributes)

    def rect(self, names: str, x, y, width, height, rx=0, **attributes) -> None:
        """A rectangle."""
        self.add("rect", names, x=x, y=y, width=width, height=height, rx=rx, **attributes)

    def circle(self, names: str, cx, cy, r, **attributes) -> None:
        """A circle."""
        self.add("circle", names, cx=cx, cy=cy, r=r, **attributes)

    def text(self, names: str, x, y, text: str, anchor: str = "start", **attributes) -> None:
        """One line of text; ``y`` is its baseline."""
        self.texts.append(text)
        self.add("text", names, escape(text), x=x, y=y, text_anchor=anchor, **attributes)

    def pill(self, names: str, x, y, text: str, text_names: str, leg: str | None = None) -> None:
        """A rounded label centred on a point."""
        width = len(text) * 8.5 + 18
        self.rect(names, x - width / 2, y - 12, width, 24, 12, data_leg=leg)
        self.text(text_names, x, y + 5, text, "middle", data_leg=leg)

    def open_link(self, href: str, label: str = "") -> None:
        """What follows, up to ``close_link``, leads to ``href``.

        ``label`` names a link that has no text of its own.
        """
        named = {"aria-label": label} if label else {}
        self.parts.append(("<a", {"href": href, **named}, ""))

    def close_link(self) -> None:
        """End of a link."""
        self.parts.append(("</a", {}, ""))

    def svg(self, paper: bool = False, links: bool = True, words: bool = True) -> str:
        """The SVG element: class names for the screen, colours written out for paper; without
        ``words`` where it is shown too small to read them."""
        has_links = links and any(tag == "<a" for tag, _, _ in self.parts)
        role = "group" if has_links else "img"
        out = [
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{_number(self.width)}"'
            f' height="{_number(self.height)}" viewBox="0 0 {_number(self.width)}'
            f' {_number(self.height)}" role="{role}" aria-label="{escape(self.label)}">'
        ]
        for tag, attributes, content in self.parts:
            if tag in ("<a", "</a"):
                if links:
                    out.append("</a>" if tag == "</a" else _tag("a", attributes) + ">")
                continue
            if not words and (tag == "text" or of_words(attributes)):
                continue
            shown = dict(attributes)
            if paper:
                shown = literal(shown.pop("class")) | {
                    k: v for k, v in shown.items() if not k.startswith("data-")
                }
            out.append(
                f"{_tag(tag, shown)}>{content}</{tag}>" if content else f"{_tag(tag, shown)}/>"
            )
        out.append("</svg>")
        return "".join(out)


def of_words(attributes: dict[str, str]) -> bool:
    """Whether a shape only carries a text: the pill round it, the dots under it."""
    names = set(str(attributes.get("class", "")).split())
    return any(name.startswith("pill") for name in names) or "assumed-line" in names


def _tag(tag: str, attributes: dict[str, str]) -> str:
    return f"<{tag}" + "".join(f' {k}="{escape(str(v))}"' for k, v in attributes.items())


def _number(value) -> str:
    if isinstance(value, float):
        return f"{value:.2f}".rstrip("0").rstrip(".")
    return str(value)


def cut(text: str, length: int) -> str:
    """``text``, cut with an ellipsis where it is longer."""
    return text if len(text) <= length else text[: length - 1].rstrip() + "…"
