"""What can be taken away: recipe, samples, marked sheets; and windows of the grid."""

import io
from datetime import date

from python_calamine import CalamineWorkbook

from gentle_ledger.core.recipe.toml import recipe_from_toml
from gentle_ledger.web.guard import own_hosts


def test_the_recipe_of_a_desk_is_the_recipe_of_the_command(office):
    number = office.bring()
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": 'Hello "{First name}"\nBye', "row": 1})
    office.call("PATCH", f"/api/rounds/{number}", json={"pace": {"every": 3.5, "give_or_take": 1}, "region": "US"})
    office.call("PATCH", f"/api/rounds/{number}/columns", json={"name": "Due", "role": "text", "fallback": "0"})
    answer = office.client.get(f"/api/rounds/{number}/recipe.toml")
    assert "attachment" in answer.headers["content-disposition"]
    recipe = recipe_from_toml(answer.text)
    assert recipe.title == "November dues"
    assert (recipe.pace.every, recipe.region, recipe.setting("due").fallback) == (3.5, "US", "0")
    assert recipe.wording == 'Hello "{First name}"\nBye'


def test_samples_can_be_dropped_again(office):
    for sample in office.call("GET", "/api/samples"):
        answer = office.client.get(f"/api/samples/{sample['file_name']}")
        files = {"file": (sample["file_name"], answer.content)}
        assert office.call("POST", "/api/rounds", 201, files=files)["rows"] in {12, 58}
    office.call("GET", "/api/samples/..%2F__init__.py", 404)


def test_windows_of_many_rows(office):
    text = "Name,Mobile\n" + "".join(f"P{i},902-555-01{i % 100:02}\n" for i in range(1, 1001))
    number = office.bring(text)
    office.call("PUT", f"/api/rounds/{number}/wording", json={"wording": "Hi {Name}", "row": 1})
    window = office.call("GET", f"/api/rounds/{number}/rows?offset=990&limit=100")
    assert window["total"] == 1000
    assert [row["number"] for row in window["rows"]] == list(range(991, 1001))
    assert office.call("GET", f"/api/rounds/{number}/rows?offset=5000")["rows"] == []
    assert office.call("GET", f"/api/rounds/{number}/rows?words=p99%200199")["total"] == 2
    assert office.call("GET", f"/api/rounds/{number}/rows?mark=Held")["total"] == 0


def test_a_planned_sheet_can_be_saved_before_it_is_sent(office):
    number = office.bring()
    text = office.client.get(f"/api/rounds/{number}/marked-sheet.csv").content.decode("utf-8-sig")
    assert text.splitlines()[0] == "First name,Mobile,Berth,Due,Mark,Time,Reason,Reference,Parts,Text"
    assert text.count("Held") == 3


def test_a_round_that_was_never_started_can_be_removed(office):
    number = office.bring()
    office.call("DELETE", f"/api/rounds/{number}", 204)
    office.call("GET", f"/api/rounds/{number}", 404)


def test_what_is_no_workbook_is_refused_at_a_glance(office):
    problem = office.call("POST", "/api/rounds/glance", 422, files={"file": ("a.xlsx", b"PK\x03\x04broken")})
    assert "damaged" in problem["detail"]


def test_hosts_of_a_port():
    assert own_hosts("127.0.0.1", 8090) == ["127.0.0.1:8090", "[::1]:8090", "localhost:8090"]
    assert "localhost" in own_hosts("127.0.0.1", 80)


TYPED = """\
First name,Mobile,Due,When,Share,Berth,Note
Ines,902-555-0128,"$1,186.40",30/11/2026,1.5%,007,5
Bo,902-555-0111,oops,31/11/2026,2%,008,6
Cal,902-555-0112,(20.00),01/12/2026,3%,009,six
"""


def test_in_a_saved_workbook_figures_are_figures_and_days_days_though_they_came_as_text(office):
    """Read back by calamine, which knows nothing of this program."""
    number = office.bring(TYPED)
    office.call("PATCH", f"/api/rounds/{number}/columns", json={"name": "When", "role": "date", "reading": "day first"})
    office.call("PATCH", f"/api/rounds/{number}/columns", json={"name": "Due", "role": "money"})
    office.call("PATCH", f"/api/rounds/{number}/columns", json={"name": "Share", "role": "number"})
    path = f"/api/rounds/{number}/marked-sheet"
    book = CalamineWorkbook.from_filelike(io.BytesIO(office.client.get(f"{path}.xlsx").content))
    rows = [row[2:7] for row in book.get_sheet_by_index(0).to_python()[1:]]
    assert rows[0] == [1186.4, date(2026, 11, 30), "1.5%", "007", "5"]
    assert rows[1] == ["oops", "31/11/2026", "2%", "008", "6"], "what cannot be read stays as it stands"
    assert rows[2] == [-20.0, date(2026, 12, 1), "3%", "009", "six"]
    lines = office.client.get(f"{path}.csv").text.splitlines()
    assert '"$1,186.40",30/11/2026,1.5%,007,5' in lines[1], "a CSV has the cells as they stood"
