"""x"""


def add_arguments(parser):
    pass


def run(options, console):
    return 0
