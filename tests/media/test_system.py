"""Which system images install, as far as they tell."""

from __future__ import annotations

from fairledger.media.imagefile import Image
from fairledger.media.system import system_of


def image(**said):
    return Image(
        index=1, installation="Client", arch="amd64", build="26100", revision="1", languages=("en-GB",), **said
    )


def test_one_build_is_another_release_on_a_server():
    client, server = image(), Image(index=1, installation="Server Core", build="26100")
    assert system_of([client]).targets == ("windows-11-24h2", "windows-11-25h2")
    assert system_of([client]).target is None
    assert system_of([server]).target == "windows-server-2025"
    # both on one medium: it is neither for certain
    both = system_of([client, server])
    assert (both.targets, both.arch) == ((), None)


def test_what_images_do_not_agree_on_nobody_knows():
    other = Image(index=2, installation="Client", arch="arm64", build="26100", revision="2", languages=("de-DE",))
    found = system_of([image(), other])
    assert (found.arch, found.build, found.languages) == (None, None, ("en-GB", "de-DE"))
    assert system_of([]).family is None
    assert system_of([Image(index=1, installation="WindowsPE", build="26100")]).family is None
    unknown = system_of([Image(index=1, installation="Client", build="99999")])
    assert (unknown.family, unknown.targets, unknown.build) == ("windows", (), "99999")
