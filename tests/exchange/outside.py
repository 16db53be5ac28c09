"""What two answer files say, told apart without anything of the program: other readers, no catalog, no meaning.

A file comes to a bag of answers. What does not count is left out here: order where installers do not mind it, numbers
that only keep an order, quoting, and how a password is hidden.
"""

from __future__ import annotations

import base64
import re
import shlex
from collections import Counter

from lxml import etree

_NUMBERS = {"Order", "keyValue"}


def answers_of(data: bytes) -> Counter:
    """The answers of a file, with how often each is said."""
    return xml_answers(data) if data.lstrip(b"\xef\xbb\xbf\xff\xfe \t\r\n").startswith(b"<") else lines_of(data)


def xml_answers(data: bytes) -> Counter:
    """Each leaf with the way to it: pass, component, architecture, the place of every item in its list."""
    found: Counter = Counter()
    root = etree.fromstring(data, etree.XMLParser(resolve_entities=False, remove_comments=True, remove_pis=True))
    for part in root.iterchildren("*"):
        name = etree.QName(part).localname
        if name != "settings":
            _leaves(part, (name,), found)
            continue
        for component in part.iterchildren("*"):
            # names are taken in any case, and which of two blocks says something does not count
            way = (part.get("pass"), component.get("name"), component.get("processorArchitecture"))
            if not len(component):
                found[way] += 1
            for child in _ordered(component):
                _leaves(child, way, found)
    return found


def _ordered(parent):
    """Children; items with a number in its order, each with a place of its own among those of its name."""
    children = list(parent.iterchildren("*"))

    def number(one):
        said = [each.text for each in one.iterchildren("*") if etree.QName(each).localname == "Order"]
        return int(said[0]) if said and (said[0] or "").strip().isdigit() else 0

    return sorted(children, key=lambda one: (etree.QName(one).localname, number(one)))


def _leaves(element, way, found):
    name = etree.QName(element).localname
    inner = list(element.iterchildren("*"))
    marks = tuple(
        sorted(
            (etree.QName(key).localname, value)
            for key, value in element.attrib.items()
            if etree.QName(key).localname not in _NUMBERS and (etree.QName(key).localname, value) != ("action", "add")
        )
    )
    here = (*way, name, marks) if marks else (*way, name)
    if not inner:
        text = (element.text or "").strip()
        if name in _NUMBERS and text.isdigit():
            return
        if name == "PlainText":
            return
        if name == "Value":
            text = _plain(element, text)
        found[(*here, text)] += 1
        return
    same = [one for one in _ordered(element.getparent()) if etree.QName(one).localname == name]
    if len(same) > 1:
        here = (*here, _identity(element, same))
    for child in _ordered(element):
        _leaves(child, here, found)


def _identity(element, same):
    """What an item says that tells it apart from others, else its place."""
    for key in ("DiskID", "Name", "Identifier", "Key", "PartitionID", "Group", "Path"):
        said = element.find(f"{{*}}{key}")
        if said is not None and said.text:
            alike = [one for one in same if (one.findtext(f"{{*}}{key}") or "") == said.text]
            return f"{key}={said.text.strip().casefold()}#{alike.index(element)}"
    return same.index(element)


def _plain(element, text):
    group = element.getparent()
    if (group.findtext("{*}PlainText") or "").strip() != "false":
        return text
    try:
        return base64.b64decode(text).decode("utf-16-le").removesuffix(etree.QName(group).localname)
    except (ValueError, UnicodeDecodeError):
        return text


def lines_of(data: bytes) -> Counter:
    """Each command with its words in any order; scripts as they stand; packages a line each."""
    found: Counter = Counter()
    lines = re.sub(r"\\\r?\n", " ", data.decode("utf-8-sig")).splitlines()
    section, body = None, []
    for line in [*lines, None]:
        word = (line or "").strip().split(" ", 1)[0].split("\t", 1)[0]
        opens = word.startswith("%") and word not in ("%end", "%include", "%ksappend") and re.match(r"%[a-z]", word)
        if line is None or word == "%end" or (opens and section is not None):
            if section is not None:
                found[(section, _body(section, body))] += 1
            section, body = None, []
            if line is None:
                break
            if word == "%end":
                continue
        if opens:
            section = (word, _words(line)[1:])
            continue
        if section is not None:
            body.append(line)
        elif line.strip() and not line.strip().startswith("#"):
            found[("", tuple(_words(line)))] += 1
    return found


def _words(line):
    lexer = shlex.shlex(line, posix=True)
    lexer.whitespace_split, lexer.commenters = True, ""
    try:
        words = list(lexer)
    except ValueError:
        words = line.split()
    # whether a comment may begin inside a word readers do not agree
    words = words[: next((at for at, one in enumerate(words) if one.startswith("#")), len(words))]
    if not words:
        return ()
    name, *rest = words
    pieces = []
    for one in rest:
        option, equals, value = one.partition("=")
        pieces += [option, value] if equals and option.startswith("-") else [one]
    return (name, *sorted(pieces))


def _body(section, lines):
    if section[0] == "%addon":
        # names and values: blanks around them, and quotes around a value, say nothing
        pairs = (line.strip().partition("=") for line in lines if line.strip() and not line.strip().startswith("#"))
        return tuple(sorted((name.strip(), value.strip().strip("\"'")) for name, _, value in pairs))
    if section[0] != "%packages":
        return tuple(line.rstrip() for line in lines if line.strip())
    said = (line.partition("#")[0].strip() for line in lines)
    return tuple(sorted(" ".join(one.split()) for one in said if one))
