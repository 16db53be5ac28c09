"""The sections whose fields match options one by one."""

from __future__ import annotations

from fairledger.families.table import Row, TableSection
from fairledger.intent.access import Access
from fairledger.intent.firewall import Firewall
from fairledger.intent.installer import Installer
from fairledger.intent.packages import Packages
from fairledger.intent.services import Services
from fairledger.intent.subscription import Subscription

_P = ("packages", "%packages")

SIMPLE = {
    section.name: section
    for section in (
        TableSection(
            Packages,
            "packages",
            (
                Row("environment", *_P, "environment"),
                Row("groups", *_P, "group", "many"),
                Row("packages", *_P, "package", "many"),
                Row("modules", *_P, "module", "many"),
                Row("exclude", *_P, "exclude", "many"),
                Row("exclude_groups", *_P, "exclude-group", "many"),
                Row("languages", *_P, "--inst-langs"),
                Row("languages", *_P, "--instLangs"),
                Row("without_weak", *_P, "--exclude-weakdeps", "flag"),
                Row("without_weak", *_P, "--excludeWeakdeps", "flag"),
                Row("without_docs", *_P, "--excludedocs", "flag"),
                Row("without_core", *_P, "--nocore", "flag"),
                Row("ignore_missing", *_P, "--ignoremissing", "flag"),
            ),
        ),
        TableSection(
            Services,
            "services",
            (
                Row("enabled", "setup", "services", "--enabled", "csv"),
                Row("disabled", "setup", "services", "--disabled", "csv"),
            ),
        ),
        TableSection(
            Firewall,
            "firewall",
            (
                Row("enabled", "setup", "firewall", "--enabled", "word", True),
                Row("enabled", "setup", "firewall", "--disabled", "word", False),
                Row("enabled", "setup", "firewall", "--blockIncoming", "word", True),
                Row("enabled", "setup", "firewall", "--allowIncoming", "word", False),
                Row("services", "setup", "firewall", "--service", "csv"),
                Row("ports", "setup", "firewall", "--port", "csv"),
                Row("trust", "setup", "firewall", "--trust", "csv"),
            ),
        ),
        TableSection(
            Subscription,
            "subscription",
            (
                Row("organisation", "setup", "rhsm", "--organization"),
                Row("key", "setup", "rhsm", "--activation-key", "secret"),
                Row("insights", "setup", "rhsm", "--connect-to-insights", "flag"),
                Row("server", "setup", "rhsm", "--server-hostname"),
                Row("proxy", "setup", "rhsm", "--proxy"),
                Row("role", "setup", "syspurpose", "--role"),
                Row("service_level", "setup", "syspurpose", "--sla"),
                Row("usage", "setup", "syspurpose", "--usage"),
            ),
        ),
        TableSection(
            Access,
            "access",
            (
                Row("mode", "setup", "selinux", "--enforcing", "word", "enforcing"),
                Row("mode", "setup", "selinux", "--permissive", "word", "permissive"),
                Row("mode", "setup", "selinux", "--disabled", "word", "off"),
            ),
        ),
        TableSection(
            Installer,
            "installer",
            (
                Row("mode", "setup", "text", "", "word", "text"),
                Row("mode", "setup", "graphical", "", "word", "graphical"),
                Row("mode", "setup", "cmdline", "", "word", "silent"),
                Row("assistant", "setup", "firstboot", "--enable", "word", True),
                Row("assistant", "setup", "firstboot", "--disable", "word", False),
                Row("check_medium", "setup", "mediacheck", "", "word", True),
                Row("desktop", "setup", "skipx", "", "word", False),
            ),
        ),
    )
}
