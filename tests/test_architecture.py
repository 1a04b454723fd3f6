"""The page on the architecture says what the imports say."""

from tests import checks_page
from tests.architecture import BEGIN, END, PAGE, drawn


def test_the_page_is_drawn_from_the_imports():
    page = PAGE.read_text("utf-8")
    assert page[page.index(BEGIN) + len(BEGIN) : page.index(END)] == drawn(), (
        "python -m tests.architecture draws it anew"
    )


def test_the_page_of_the_checks_is_drawn_from_the_registry():
    page = checks_page.PAGE.read_text("utf-8")
    assert checks_page.with_table(page) == page, "python -m tests.checks_page draws it anew"
