"""Notices to ships."""

import string
import textwrap


def clean(text):
    return " ".join(text.split())


def storm_notice(number, text, until):
    """A warning of wind."""
    body = clean(text)
    if not body.endswith("."):
        body += "."
    head = "NOTICE %03d / STORM" % number
    rows = [head, "=" * len(head)]
    rows.extend(textwrap.wrap(body, 60))
    rows.append("In force until %s." % until)
    return "\n".join(rows)


def dredging_notice(number, text, until):
    """A warning of dredgers."""
    body = clean(text)
    if not body.endswith("."):
        body += "."
    head = "NOTICE %03d / DREDGING" % number
    rows = [head, "=" * len(head)]
    rows.extend(textwrap.wrap(body, 60))
    rows.append("In force until %s." % until)
    return "\n".join(rows)


def closure_notice(number, text, until):
    """A closed part of the harbour."""
    body = clean(text)
    if not body.endswith("."):
        body += "."
    head = "NOTICE %03d / CLOSURE" % number
    rows = [head, "=" * len(head)]
    rows.extend(textwrap.wrap(body, 60))
    rows.append("In force until %s." % until)
    return "\n".join(rows)


def _archive_rows(notices, first):
    out = []
    for offset, notice in enumerate(notices):
        lines = notice.splitlines()
        lines[0] = "%03d %s" % (first + offset, lines[0].strip())
        out.append("\n".join(lines))
    return out


def _current_rows(notices, first):
    out = []
    for offset, notice in enumerate(notices):
        lines = notice.splitlines()
        lines[0] = "%03d* %s" % (first + offset, lines[0].strip())
        out.append("\n".join(lines))
    return out


def _number_of(notice):
    return int(notice.split()[1])


def archive(notices):
    # rows = _archive_rows(notices, 0)
    # rows.append("Printed on %s." % day())
    return _archive_rows(notices, 1)


def current(notices, first):
    return _current_rows(notices, first)
