"""The command line: exit codes, words, JSON that follows its schema."""

from __future__ import annotations

import csv
import io
import json
import os
import re
import subprocess
import sys
from pathlib import Path

import jsonschema
import numpy as np
import pytest

import uhrwerk
from tests.conftest import DEMO, MENDED, ROOT
from uhrwerk.cli import main
from uhrwerk.settings import Settings

RESULTS = json.loads((ROOT / "docs/results-schema.json").read_text(encoding="utf-8"))


@pytest.fixture(autouse=True)
def own_data(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("UHRWERK_DATA", str(tmp_path_factory.getbasetemp() / "cli"))


def test_check_of_the_shipped_tucker_exits_1_and_names_pair_moment_and_amount(
    capsys: pytest.CaptureFixture[str],
) -> None:
    assert main(["check", str(DEMO)]) == 1
    out = capsys.readouterr().out
    line = next(x for x in out.splitlines() if "Rocker clears post" in x)
    assert line.startswith("FAILS")
    assert "Plate (guide post) and Rocker and finger overlap by 0.4" in line
    assert "mm at 1.39" in line


def test_check_of_the_mended_tucker_exits_0(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["check", str(MENDED)]) == 0
    assert "FAILS" not in capsys.readouterr().out


def test_a_locale_without_signs_beyond_ascii_is_no_hindrance() -> None:
    plain = {"LC_ALL": "C", "PYTHONUTF8": "0", "PYTHONCOERCECLOCALE": "0"}
    command = [sys.executable, "-m", "uhrwerk", "check", str(DEMO)]
    done = subprocess.run(command, env={**os.environ, **plain}, capture_output=True, timeout=120, check=False)
    assert done.returncode == 1
    assert re.fullmatch(rb"( *\d+% .*\n)*", done.stderr), "progress alone"
    assert "±" in done.stdout.decode()


@pytest.mark.parametrize("file", [DEMO, MENDED])
def test_json_follows_the_documented_schema(file: Path, capsys: pytest.CaptureFixture[str]) -> None:
    main(["check", str(file), "--json"])
    data = json.loads(capsys.readouterr().out)
    jsonschema.Draft202012Validator.check_schema(RESULTS)
    jsonschema.validate(data, RESULTS)
    assert data["holds"] is (file == MENDED)
    clearance = next(v for v in data["verdicts"] if v["requirement"] == "rocker_clears_post")
    assert clearance["unit"] == "m"
    assert clearance["limit"] == 0.001


@pytest.mark.parametrize(
    ("text", "path"),
    [
        ("not json", "document"),
        ('{"format": 1}', "name"),
        ('{"format": 1, "name": "x", "parts": {"a": {"name": "a", "material": "steel", "element": {"kind": "pin", "diameter": "3 deg"}}}}', "parts.a.element.diameter"),
        ('{"format": 99, "name": "x"}', "format"),
    ],
)  # fmt: skip
def test_check_of_a_broken_file_exits_2_with_the_fields_path(
    text: str, path: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    file = tmp_path / "broken.json"
    file.write_text(text, encoding="utf-8")
    assert main(["check", str(file)]) == 2
    error = capsys.readouterr().err
    assert f"broken.json: {path}: " in error
    assert "Traceback" not in error


def test_a_file_that_is_not_there_or_not_text(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["check", str(tmp_path / "none.json")]) == 2
    assert "No such file" in capsys.readouterr().err
    (tmp_path / "binary.json").write_bytes(b"\xff\xfe\x00\x80" * 50)
    assert main(["check", str(tmp_path / "binary.json")]) == 2


def test_an_unsolvable_mechanism_exits_2_and_names_the_joints(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    data = json.loads(DEMO.read_text(encoding="utf-8"))
    data["parts"]["coupler"]["element"]["distance"] = "300 mm"
    file = tmp_path / "short.json"
    file.write_text(json.dumps(data), encoding="utf-8")
    assert main(["check", str(file)]) == 2
    error = capsys.readouterr().err
    assert "cannot hold together" in error
    assert "'Coupler on crank pin'" in error
    assert main(["motion", str(file)]) == 2


def test_motion_as_csv_and_json(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["motion", str(DEMO), "--of", "rocker_turns_in_plate"]) == 0
    rows = list(csv.reader(io.StringIO(capsys.readouterr().out)))
    assert rows[0] == [
        "time (s)",
        "rocker_turns_in_plate (rad)",
        "rocker_turns_in_plate (rad/s)",
        "rocker_turns_in_plate (rad/s2)",
    ]
    assert len(rows) == 362
    assert main(["motion", str(DEMO), "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    np.testing.assert_array_equal([float(r[1]) for r in rows[1:]], data["joints"]["rocker_turns_in_plate"]["value"])
    assert data["residual"]["value"] < 1e-9
    assert main(["motion", str(DEMO), "--of", "nothing"]) == 2
    assert "'nothing'" in capsys.readouterr().err


def test_mass_of_whole_and_group(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["mass", str(DEMO)]) == 0
    assert "Swinging arm: 44." in capsys.readouterr().out
    assert main(["mass", str(DEMO), "--group", "Swinging arm", "--json"]) == 0
    data = json.loads(capsys.readouterr().out)
    assert list(data) == ["swinging_arm"]
    assert data["swinging_arm"]["mass"]["unit"] == "kg"
    assert main(["mass", str(DEMO), "--group", "nobody"]) == 2


def test_balance_of_the_cutter(capsys: pytest.CaptureFixture[str]) -> None:
    cutter = str(DEMO.parent / "foil-cutter.json")
    assert main(["balance", cutter]) == 0
    out = capsys.readouterr().out
    assert "Shaft turns in plate (Shaft, Blade carrier, Blade, Rivet and 1 more)" in out
    assert "Grade reached: G 217" in out
    assert "The frame is shaken by at most 1.491 N, at " in out  # evenly, all round
    assert "and turned about its centre of gravity by at most" in out
    assert main(["balance", cutter, "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert told["rotors"][0]["holds"] is False
    assert told["grades"][3] == pytest.approx(6.3)


def test_schema_is_printed(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["schema"]) == 0
    schema = json.loads(capsys.readouterr().out)
    jsonschema.validate(json.loads(DEMO.read_text(encoding="utf-8")), schema)
    assert json.loads((ROOT / "docs/document-schema.json").read_text(encoding="utf-8")) == schema


def test_settings_by_option_environment_and_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    (tmp_path / "uhrwerk.toml").write_text("port = 9001\nbuild_limit = 12\n", encoding="utf-8")
    assert Settings().port == 9001
    monkeypatch.setenv("UHRWERK_PORT", "9002")
    assert Settings().port == 9002
    assert Settings(port=9003).port == 9003
    assert Settings().build_limit == 12
    assert main(["serve", "--port", "70000"]) == 2


def test_only_this_machine_is_listened_on(capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["serve", "--host", "0.0.0.0"]) == 2
    assert "127.0.0.1" in capsys.readouterr().err


def test_curves_and_the_way_of_a_cutter(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["curves", str(DEMO), "--of", "transmission_angle"]) == 0
    head, *rows = capsys.readouterr().out.splitlines()
    assert head.startswith("time (s),transmission_angle (deg),transmission_angle rate (rpm)")
    assert len(rows) == 361
    assert main(["curves", str(DEMO), "--json"]) == 0
    assert json.loads(capsys.readouterr().out)[0]["id"] == "transmission_angle"
    assert main(["curves", str(DEMO), "--of", "gone"]) == 2
    assert "there is no curve 'gone'; known are transmission_angle" in capsys.readouterr().err
    folder = DEMO.with_name("folder.json")
    for name in ("way.csv", "way.dxf"):
        assert main(["cutter", str(folder), "--part", "cam", "--diameter", "8 mm", "--to", str(tmp_path / name)]) == 0
        assert (tmp_path / name).stat().st_size > 10_000
    assert main(["cutter", str(folder), "--part", "cam", "--to", str(tmp_path / "way.txt")]) == 2
    assert "is written as .dxf or .csv" in capsys.readouterr().err
    assert main(["cutter", str(folder), "--part", "plate", "--to", str(tmp_path / "x.dxf")]) == 2
    assert "is not a cam" in capsys.readouterr().err


def test_it_says_its_version(capsys: pytest.CaptureFixture[str]) -> None:
    with pytest.raises(SystemExit) as end:
        main(["--version"])
    assert end.value.code == 0
    assert capsys.readouterr().out == f"uhrwerk {uhrwerk.__version__}\n"


def test_a_mechanism_comes_by_standard_input() -> None:
    command = [sys.executable, "-m", "uhrwerk", "check", "-"]
    done = subprocess.run(command, input=MENDED.read_bytes(), capture_output=True, timeout=120, check=False)
    assert done.returncode == 0, done.stderr
    assert b"holds" in done.stdout
    broken = subprocess.run(command, input=b"{}", capture_output=True, timeout=120, check=False)
    assert broken.returncode == 2
    assert b"-: format: " in broken.stderr
    assert b"http" not in broken.stderr


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_a_shell_completes_commands_and_options(shell: str, capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    assert main(["completion", shell]) == 0
    text = capsys.readouterr().out
    assert all(word in text for word in ("check", "export", "--to" if shell != "fish" else "-l to"))
    if shell == "bash":
        file = tmp_path / "completion"
        file.write_text(text, encoding="utf-8")
        ask = f'source {file}; COMP_WORDS=(uhrwerk ex); COMP_CWORD=1; _uhrwerk; echo "${{COMPREPLY[@]}}"; COMP_WORDS=(uhrwerk export --p); COMP_CWORD=2; _uhrwerk; echo "${{COMPREPLY[@]}}"'
        done = subprocess.run(["bash", "-c", ask], capture_output=True, text=True, check=True, cwd=tmp_path)
        assert done.stdout.splitlines() == ["export", "--part"]


def test_colour_is_for_terminals_without_no_color(
    monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    main(["check", str(DEMO)])
    assert "\x1b" not in capsys.readouterr().out
    monkeypatch.setattr("sys.stdout.isatty", lambda: True)
    main(["check", str(DEMO)])
    assert "\x1b[31mFAILS" in capsys.readouterr().out
    monkeypatch.setenv("NO_COLOR", "1")
    main(["check", str(DEMO)])
    assert "\x1b" not in capsys.readouterr().out
