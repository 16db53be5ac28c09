"""Where the elements of a document stand in its text, and which parts of it another file may say too."""

from __future__ import annotations

from lxml import etree

from fairledger.families.windows.xml_marks import blanked, starts
from fairledger.model.pattern import pattern
from fairledger.model.places import Origin

Part = tuple[int, int, str]
"""Line and column at which a component begins, and the text from there to the next one."""

_COMPONENT = pattern(r"<component(?=[\s/>])")


class Places:
    """Places of the elements of one document."""

    def __init__(self, root: etree._Element, text: str, file: str) -> None:
        self.found: dict[int, Origin] = {}
        """By the elements' identities."""
        self._root = root
        self._text = text
        self._file = file
        self._kept: list[etree._Element] = []  # identities hold as long as the elements live
        self._hidden = "<!" in text or text.find("<?", 2) > 0

    def find_all(self) -> None:
        """Works out all of them, but for those that are known."""
        self._kept += self._root.iter("*")
        places = [Origin(self._file, line, column) for line, column in starts(self._text, hidden=self._hidden)]
        self.found = dict(zip(map(id, self._root.iter("*")), places, strict=False)) | self.found

    def find_below(self, component: etree._Element, part: Part) -> None:
        """Works out those of a component and of all in it, without the file's name."""
        line, column, text = part
        inside = list(component.iter("*"))
        self._kept += inside
        for element, (below, at) in zip(inside, starts(text, hidden=self._hidden), strict=False):
            self.found[id(element)] = Origin("", line + below - 1, at + column - 1 if below == 1 else at)

    def of(self, element: etree._Element) -> Origin:
        """Where an element begins."""
        if id(element) not in self.found:
            self.find_all()
        return self.found.get(id(element), Origin(self._file))

    def parts(self) -> dict[int, Part]:
        """The components by their identities; none at all where text and elements cannot be matched for sure."""
        text = self._text
        plain = blanked(text) if self._hidden else text
        begins = [match.start() for match in _COMPONENT.finditer(plain)]
        components = self._root.findall("*/{*}component")
        if not begins or len(begins) != len(components) or any(one.prefix for one in components):
            return {}  # none, nested ones, prefixes
        self._kept += components
        found: dict[int, Part] = {}
        line, last = 1, 0
        for component, begin, end in zip(components, begins, [*begins[1:], len(text)], strict=True):
            line += text.count("\n", last, begin)
            last = begin
            found[id(component)] = (line, begin - text.rfind("\n", 0, begin), text[begin:end])
        return found
