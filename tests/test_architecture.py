"""The page on the architecture says what the imports say."""

from tests.architecture import BEGIN, END, PAGE, drawn


def test_the_page_is_drawn_from_the_imports():
    page = PAGE.read_text("utf-8")
    assert page[page.index(BEGIN) + len(BEGIN) : page.index(END)] == drawn(), (
        "python -m tests.architecture draws it anew"
    )
