"""The whole description, tried with made-up requests: no error of the inside, no answer that is not described."""

import json
import re

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import (
    content_type_conformance,
    response_schema_conformance,
    status_code_conformance,
)

from gentle_ledger.core.rounds.stages import Stage
from tests.web.office import OWN, Office

CHECKS = (not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance)


@pytest.fixture(scope="module")
def described(tmp_path_factory):
    office = Office(tmp_path_factory.mktemp("described"))
    for _ in range(12):
        number = office.bring()
        office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Hello {First name}", "row": 1})
    office.started()
    schema = schemathesis.openapi.from_dict(office.app.openapi())
    schema.app = office.app
    # A stream has no end to wait for.
    yield schema.exclude(path_regex="/events$")
    office.app.state.context.database.close()


@settings(
    max_examples=10,
    deadline=None,
    derandomize=True,
    database=None,
    phases=[Phase.generate],
    suppress_health_check=list(HealthCheck),
)
@given(st.data())
def every_answer_is_described(operation, data):
    case = data.draw(operation.as_strategy())
    # Most made-up rounds are none; what is asked of one that is there says more.
    for name, most in (("round_id", 14), ("number", 4)):
        if isinstance((case.path_parameters or {}).get(name), int):
            case.path_parameters[name] = case.path_parameters[name] % most + 1
    headers = {**OWN, "host": "127.0.0.1:8090"}
    case.call_and_validate(base_url="http://127.0.0.1:8090", headers=headers, checks=CHECKS)


def test_the_description_is_served_with_a_page_that_needs_nothing_from_outside(tmp_path):
    office = Office(tmp_path)
    described = office.call("GET", "/api/openapi.json")
    assert described == json.loads(json.dumps(office.app.openapi()))
    page = office.client.get("/api/description")
    assert page.status_code == 200
    assert not re.search(r"(src|href)=['\"]?(https?:)?//", page.text)
    for operation in ("PUT /api/rounds/{round_id}/wording", "GET /api/catalogue"):
        assert f"<code>{operation}</code>" in page.text
    shapes = described["components"]["schemas"]
    assert {"behind", "not now", "superseded", "not valid"} <= set(shapes["Problem"]["properties"]["kind"]["enum"])
    assert set(shapes["Stage"]["enum"]) == {stage.value for stage in Stage}
    assert {"Sent", "Unsure"} <= set(shapes["Mark"]["enum"])
    refused = office.call("GET", "/api/rounds/99", 404)
    assert refused["kind"] in shapes["Problem"]["properties"]["kind"]["enum"]
    office.app.state.context.database.close()


def test_every_answer_is_described(described):
    operations = [found.ok() for found in described.get_all_operations()]
    assert len(operations) > 35
    for operation in operations:
        every_answer_is_described(operation)
