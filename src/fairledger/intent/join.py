"""The portable section ``join``: the domain or workgroup that a machine joins."""

# annotations are kept as types here, not as texts: reading them would compile every one of them at each start

from fairledger.intent.intent import Section
from fairledger.intent.part import Part
from fairledger.model.values import SecretRef, Text


class Join(Part, frozen=True, kw_only=True):
    """A domain with the account that may add machines, or a workgroup."""

    domain: Text | None = None
    workgroup: Text | None = None
    account: Text | None = None
    """Who may add machines to the domain."""
    account_domain: Text | None = None
    """The domain of that account, if it is another one."""
    password: SecretRef | None = None
    """The account's password; stands readable in the answer file."""
    unit: Text | None = None
    """Organisational unit that receives the machine, as a distinguished name."""


JOIN: Section[Join] = Section("join", Join)
