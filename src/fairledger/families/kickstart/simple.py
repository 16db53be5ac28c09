"""The sections whose fields match options one by one."""

from __future__ import annotations

from fairledger.families.table import Row, TableSection
from fairledger.intent.access import Access
from fairledger.intent.addition import Addition
from fairledger.intent.firewall import Firewall
from fairledger.intent.installer import Installer
from fairledger.intent.packages import Packages
from fairledger.intent.services import Services
from fairledger.intent.subscription import Subscription

_P = ("packages", "%packages")
_DUMP, _RULES = ("addon", "com_redhat_kdump"), ("addon", "org_fedora_oscap")

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
            Addition,
            "addition",
            (
                Row("crash_dump", *_DUMP, "--enable", "word", True),
                Row("crash_dump", *_DUMP, "--disable", "word", False),
                Row("crash_memory", *_DUMP, "--reserve-mb"),
                Row("rules_from", *_RULES, "content-type"),
                Row("rules_url", *_RULES, "content-url"),
                Row("rules_profile", *_RULES, "profile"),
                Row("rules_tailoring", *_RULES, "tailoring-path"),
                Row("rules_checksum", *_RULES, "fingerprint"),
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
                Row("watch", "setup", "rdp", "", "word", True),
                Row("watch", "setup", "vnc", "", "word", True),
                Row("watch_account", "setup", "rdp", "--username"),
                Row("watch_password", "setup", "rdp", "--password", "secret"),
                Row("watch_password", "setup", "vnc", "--password", "secret"),
                Row("watch_call", "setup", "vnc", "--host"),
                Row("watch_port", "setup", "vnc", "--port", "number"),
            ),
        ),
    )
}
