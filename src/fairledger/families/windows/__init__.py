"""The family ``windows``: answer files in XML, by component and setup pass.

Facts about components, settings and passes follow the vendor's public reference for unattended setup,
from knowledge.
"""

from fairledger.families.windows.family import Windows

FAMILY = Windows()
