"""The part of an answer file that stands beside the passes: packages and features of the image.

Its attributes bear no prefix and belong to the values; in a sheet they are nodes whose names begin with ``@``.
"""

from __future__ import annotations

from collections.abc import Callable

from lxml import etree

from fairledger.families.windows.names import NAMESPACE
from fairledger.model.places import Origin
from fairledger.model.sheet import Block, Node, is_mark

SERVICING = "servicing"
"""The pass and the component that stand for it in a sheet."""


def read(element: etree._Element, origin_of: Callable[[etree._Element], Origin]) -> Block:
    """The part as a block."""
    children = tuple(_node(child, origin_of) for child in element.iterchildren("*"))
    return Block(SERVICING, SERVICING, "", children, origin_of(element))


def _node(element: etree._Element, origin_of: Callable[[etree._Element], Origin]) -> Node:
    origin = origin_of(element)
    attributes = [Node(f"@{etree.QName(name).localname}", str(value), (), origin) for name, value in _own(element)]
    inner = [_node(child, origin_of) for child in element.iterchildren("*")]
    text = (element.text or "").strip()
    return Node(etree.QName(element).localname, text or None, (*attributes, *inner), origin)


def _own(element: etree._Element) -> list[tuple[str, str]]:
    return [(str(name), str(value)) for name, value in element.attrib.items()]


def write(root: etree._Element, block: Block, text: Callable[[tuple[Node, ...], str], str]) -> None:
    """Adds the part to the document; ``text`` gives that of the last node's value."""
    part = etree.SubElement(root, f"{{{NAMESPACE}}}{SERVICING}")
    for node in block.children:
        _element(part, (node,), text)


def _element(parent: etree._Element, way: tuple[Node, ...], text: Callable[[tuple[Node, ...], str], str]) -> None:
    node = way[-1]
    if is_mark(node.name):
        parent.set(node.name[1:], text(way, "attribute"))
        return
    element = etree.SubElement(parent, f"{{{NAMESPACE}}}{node.name}")
    if node.value is not None:
        element.text = text(way, "text")
    for child in node.children:
        _element(element, (*way, child), text)
