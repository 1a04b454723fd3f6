"""What the web tests share."""

import pytest

from tests.web.office import Office


@pytest.fixture
def office(tmp_path):
    made = Office(tmp_path)
    yield made
    made.app.state.context.database.close()
