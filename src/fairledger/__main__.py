"""Lets ``python -m fairledger`` do what the command ``fairledger`` does."""

from fairledger.cli.main import entry

if __name__ == "__main__":
    entry()
