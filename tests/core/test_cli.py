import json

import numpy as np
import pytest
from builders import disc, filled, png, textured, with_thing

from zweiblick_core.cli import main
from zweiblick_core.report import KINDS

TRUTH = textured(300, 400)
MASK = disc(TRUTH.shape[:2], 200, 150, 40)


@pytest.fixture
def folder(tmp_path):
    (tmp_path / "original.png").write_bytes(png(with_thing(TRUTH, MASK)))
    (tmp_path / "result.png").write_bytes(png(filled(TRUTH, MASK, TRUTH.astype(float) + 25)))
    (tmp_path / "mask.png").write_bytes(png(MASK.astype(np.uint8) * 255))
    square = {
        "type": "Polygon",
        "coordinates": [[[150, 100], [250, 100], [250, 200], [150, 200], [150, 100]]],
    }
    (tmp_path / "regions.geojson").write_text(
        json.dumps(
            {
                "type": "FeatureCollection",
                "features": [{"type": "Feature", "id": "a", "geometry": square}],
            }
        )
    )
    return tmp_path


def run(folder, *extra):
    return main(
        [
            "check",
            str(folder / "original.png"),
            str(folder / "result.png"),
            *extra,
            "--out",
            str(folder / "report.json"),
        ]
    )


def test_the_report_has_everything_the_contract_names(folder, capsys):
    assert run(folder, "--mask", str(folder / "mask.png"), "--size", "420x594mm@150dpi@700mm") == 0
    report = json.loads((folder / "report.json").read_text())
    assert (
        report["schema"] == "zweiblick.check/1"
        and set(report["examined"]) == set(KINDS)
        and report["alignment"]["kind"] == "same"
    )
    region = report["regions"][0]
    assert set(region) == {
        "id",
        "bbox",
        "backdrop",
        "overall",
        "scores",
        "abstained",
        "findings",
        "groups",
    }
    assert set(region["scores"]) == set(KINDS) - {"overreach"}
    finding = region["findings"][0]
    assert set(finding) == {
        "kind",
        "runner_up",
        "score",
        "confidence",
        "severity",
        "word",
        "bbox",
        "polygon",
        "signal",
        "group",
        "measure",
        "evidence",
    }
    assert (
        set(finding["measure"]["natural"]) == {"low", "high", "n", "null"}
        and finding["kind"] == "seam"
    )
    assert (
        report["overreach"]["score"] < 0.2
        and report["overreach"]["findings"] == []
        and report["base"] is None
        and report["facts"] == []
    )
    assert "seam" in capsys.readouterr().out


@pytest.mark.slow
def test_regions_come_from_geojson_or_from_what_changed(folder):
    assert run(folder, "--regions", str(folder / "regions.geojson")) == 0
    assert [r["id"] for r in json.loads((folder / "report.json").read_text())["regions"]] == ["a"]
    assert run(folder) == 0
    assert len(json.loads((folder / "report.json").read_text())["regions"]) == 1


@pytest.mark.parametrize(
    "extra", [["--mask", "nowhere.png"], ["--size", "large"], ["--regions", "nowhere.geojson"]]
)
def test_bad_input_is_one_plain_line_and_code_2(folder, capsys, extra):
    assert run(folder, *extra) == 2
    told = capsys.readouterr().err
    assert told.count("\n") == 1 and not (folder / "report.json").exists()


def test_unmatched_pictures_still_give_a_report(folder):
    (folder / "result.png").write_bytes(png(textured(300, 500, seed=91)))
    assert run(folder, "--mask", str(folder / "mask.png")) == 0
    report = json.loads((folder / "report.json").read_text())
    assert (
        report["alignment"]["kind"] == "unmatched"
        and report["alignment"]["reason"]
        and report["regions"] == []
    )


@pytest.mark.slow
def test_in_a_batch_a_bad_line_is_reported_and_the_rest_go_on(folder):
    good = {"id": "good", "original": "original.png", "result": "result.png", "mask": "mask.png"}
    lines = [
        json.dumps(good),
        "not json",
        json.dumps({**good, "id": "missing", "result": "gone.png"}),
        json.dumps({**good, "id": "../out"}),
        json.dumps({**good, "id": "last"}),
    ]
    (folder / "list.jsonl").write_text("\n".join(lines))
    assert (
        main(["check", "--batch", str(folder / "list.jsonl"), "--out-dir", str(folder / "out")])
        == 0
    )
    assert sorted(path.name for path in (folder / "out").iterdir()) == [
        "good.json",
        "last.json",
        "line-2.error.json",
        "line-4.error.json",
        "missing.error.json",
    ]
    assert "gone.png" in json.loads((folder / "out" / "missing.error.json").read_text())["error"]
