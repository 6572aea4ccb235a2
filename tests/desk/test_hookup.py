"""The line is built, changed and looked at by keyboard and by mouse; the kit takes tables."""

from dataclasses import replace

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QApplication

from fenmist.hookup.line import main_line
from fenmist.kit.part import PartKind


def _step(demo):
    demo.press("enter", "alt+2")
    return demo.shell.bench.step_at(1)


def _offered(step) -> list[str]:
    """What the chooser lists, headings at the margin and parts set in."""
    return [step.chooser.list.item(row).text() for row in range(step.chooser.list.count())]


def _pick(demo, step, begins: str) -> None:
    """Choose from the menu that stands open."""
    shown = [item for item in step.menu.actions() if not item.isSeparator()]
    wanted = next(item for item in shown if item.text().startswith(begins))
    while step.menu.activeAction() is not wanted:
        demo.press("down")
    demo.press("return")
    demo.shell.activateWindow()
    step.line.setFocus()
    demo.settle()


def _kinds(step) -> list[PartKind]:
    return [item.kind for item in step.line.placed()]


def test_a_bench_is_built_from_a_template_and_changed_by_keyboard_alone(demo):
    session = demo.shell.session
    session.save_part(replace(next(part for part in session.kit if part.id == "phalarope"), retired=True))
    step = _step(demo)
    demo.click(step.another)
    _pick(demo, step, "known mismatch")  # no SWR meter is left
    assert "no " in step.problem.text() and "The kit has" in step.problem.text()

    demo.click(step.another)
    _pick(demo, step, "sensor behind a pad")
    assert step.hookup.label == "sensor behind a pad"
    assert _kinds(step) == [PartKind.TRANSMITTER, PartKind.INLINE_METER, PartKind.ATTENUATOR, PartKind.POWER_METER]
    assert "over a rating" in step.headline.text()
    assert demo.shell.bench.margin.views[0].note.severity == "stop"

    demo.press("right", "i")
    demo.type("bulr")
    demo.press("enter")
    assert _kinds(step).count(PartKind.ATTENUATOR) == 2
    demo.press("ctrl+z")
    assert _kinds(step).count(PartKind.ATTENUATOR) == 1
    demo.press("ctrl+shift+z")
    assert _kinds(step).count(PartKind.ATTENUATOR) == 2

    step.line.select("attenuator")
    demo.press("]")
    assert step.hookup.element("attenuator").settings == {"step": "0 dB"}
    demo.press("[")
    assert step.hookup.element("attenuator").settings == {"step": "10 dB"}
    step.line.select("attenuator 2")
    demo.press("r")
    assert step.hookup.mate("attenuator 2", "out")[0] == "wattmeter"
    assert any("wrong way round" in view.note.what for view in demo.shell.bench.margin.views)
    demo.press("r", "p")
    assert (step.hookup.stated.element, step.hookup.stated.port) == ("attenuator 2", "out")
    demo.press("p")
    assert step.hookup.stated.port == "in"
    step.line.select("attenuator")
    demo.press("del")
    assert _kinds(step).count(PartKind.ATTENUATOR) == 1


def test_instruments_hang_on_side_ports_and_go_with_them(demo):
    step = _step(demo)
    step.show_hookup("line 2")
    demo.settle()
    assert [item.label for item in step.line.placed()][-2:] == ["Sallow steps", "Snipe +10 dBm"]

    step.line.setFocus()
    step.line.select("tap")
    demo.press("h")  # its only side port is taken
    assert "no free side port" in step.problem.text()
    demo.press("down")
    assert step.line.selected_element == "attenuator"
    demo.press("up")
    assert step.line.selected_element == "tap"
    demo.press("enter")
    demo.type("tee")
    demo.press("enter")
    assert PartKind.TEE in _kinds(step)
    assert len(step.line.placed()) == 6


def test_a_part_is_found_by_typing_its_name_or_its_kind(demo):
    step = _step(demo)
    demo.press("right", "i")
    every = _offered(step)
    bulrush = next(row for row, text in enumerate(every) if text.startswith("   Bulrush"))
    assert every.index("attenuator") < bulrush
    assert step.chooser.height() < demo.shell.height()

    demo.type("atten")
    assert _offered(step)[0] == "attenuator"
    assert all(text.startswith("   ") for text in _offered(step)[1:])
    demo.press("down")
    second = step.chooser.list.currentItem().text().strip()
    demo.press("up", "up")  # the heading is passed over
    first = step.chooser.list.currentItem().text().strip()
    assert [f"   {first}", f"   {second}"] == _offered(step)[1:3]
    demo.type(" nothing so called")
    assert _offered(step) == []
    assert step.chooser.said.isVisible()
    demo.press("enter")
    assert step.chooser.isVisible()
    demo.press("esc")
    assert step.line.hasFocus()
    assert not demo.shell.bench.job.commands.undo_label


def test_a_part_is_taken_with_the_mouse(demo):
    step = _step(demo)
    demo.press("right", "i")
    demo.type("jumper")
    place = step.chooser.list.visualItemRect(step.chooser.list.item(1)).center()
    demo.click(step.chooser.list.viewport(), place)

    assert PartKind.JUMPER in _kinds(step)
    assert demo.shell.bench.job.commands.undo_label.startswith("plug in jumper")


def test_the_bench_that_is_read_refuses_what_would_spoil_the_readings(demo):
    step = _step(demo)
    before = demo.shell.bench.job.job
    step.line.select("scope")
    demo.press("del")

    assert "readings of this job" in step.problem.text()
    assert demo.shell.bench.job.job is before


def test_the_staircase_and_the_table_say_the_headroom(demo):
    step = _step(demo)
    step.show_hookup("line 2")
    demo.settle()

    said = step.stairs.accessibleDescription().replace("\u202f", " ")
    assert "Snipe +10 dBm: +9.5 dB" in said
    rows = {step.levels.texts(row)[0]: step.levels.texts(row) for row in range(step.levels.rowCount())}
    snipe = [cell.replace("\u202f", " ") for cell in rows["Snipe +10 dBm, in"]]
    assert snipe[7:] == ["+9.5 dB", "−0.5 dB", "+4.1 dB"]
    assert rows["Curlew tap 40 dB, R1"][1].replace("\u202f", " ") == "2.22 W"
    assert "Sallow steps at 0 dB" in step.headline.text()


def test_a_hook_up_is_named_kept_as_a_template_and_taken_away(demo):
    step = _step(demo)
    step.show_hookup("line 2")
    demo.settle()
    demo.click(step.name)
    step.name.selectAll()
    demo.type("tap for the pilot boat")
    demo.press("return")
    assert step.hookup.label == "tap for the pilot boat"

    demo.click(step.another)
    _pick(demo, step, "save as")
    assert "tap for the pilot boat" in demo.shell.session.template_names()
    demo.click(step.away)
    assert [item.label for item in demo.shell.bench.job.job.hookups] == ["oscilloscope across the load"]

    demo.click(step.another)
    _pick(demo, step, "tap for the pilot boat")
    job = demo.shell.bench.job.job
    assert main_line(job.hookups[1], job.parts) == main_line(step.hookup, job.parts)
    assert step.hookup.label == "tap for the pilot boat"


def test_a_part_of_the_line_is_chosen_by_mouse(demo):
    step = _step(demo)
    box = next(item.box for item in step.line.placed() if item.kind is PartKind.JUMPER)
    demo.click(step.line, QPoint(int(box.center().x()), int(box.center().y())))
    demo.click(step.buttons["remove"])

    assert PartKind.JUMPER not in _kinds(step)
    assert not step.problem.isVisible()


# the kit's tables


def _kit(demo, part_id: str):
    demo.shell.go("kit")
    kit = demo.shell.kit
    label = next(part.label for part in demo.session.kit if part.id == part_id)
    kit.table.setCurrentCell([kit.table.texts(row)[0] for row in range(kit.table.rowCount())].index(label), 0)
    demo.settle()
    return kit


def test_a_table_is_typed_pasted_and_stays_with_the_part(demo):
    kit = _kit(demo, "bulrush")
    demo.click(kit.measured)
    demo.choose(kit.tables.new, "loss of the way through")
    rows = [["2 MHz", "30.11 dB", "0.1"], ["8 MHz", "30.14 dB", "0.1"], ["30 MHz", "30.3", ""]]
    QApplication.clipboard().setText("\n".join("\t".join(row) for row in rows))
    kit.tables.grid.setFocus()
    demo.press("ctrl+v")

    (table,) = next(part for part in demo.shell.session.kit if part.id == "bulrush").characterisations
    assert table.frequency_hz == (2e6, 8e6, 30e6)
    assert table.u == (0.05, 0.05, 0.0)
    assert kit.measured.text() == "measured (1)"

    kit.tables.grid.setCurrentCell(1, 1)
    demo.read("thirty")
    assert "Row 2" in kit.tables.problem.text()
    demo.read("30.2")
    assert not kit.tables.problem.isVisible()
    demo.shell.activateWindow()
    demo.press("ctrl+z")
    assert next(p for p in demo.shell.session.kit if p.id == "bulrush").characterisations == (table,)


def test_a_touchstone_file_dropped_in_the_kit_is_taken_or_refused_with_its_line(demo, tmp_path):
    kit = _kit(demo, "bulrush")
    path = tmp_path / "bulrush.s2p"
    path.write_text("# MHz S DB R 50\n1 -30 0 -30.1 0 -30.1 0 -30 0\n30 -30 0 -30.2 0 -30.2 0 -30 0\n")
    demo.shell.take_file(path)
    demo.settle()

    part = next(part for part in demo.shell.session.kit if part.id == "bulrush")
    assert [table.quantity for table in part.characterisations] == ["s11", "s12", "s21", "s22"]
    assert kit.tables.curve.accessibleDescription() == "2 points of s22"

    path.write_text("# MHz Z DB R 50\n1 -30 0 -30.1 0 -30.1 0 -30 0\n")
    kit.tables.path.setText(str(path))
    demo.click(kit.tables.open)
    assert "bulrush.s2p, line 1" in kit.tables.problem.text()


def test_parts_of_every_kind_can_be_added_and_show_their_sheet(demo):
    demo.shell.go("kit")
    kit = demo.shell.kit
    for kind in PartKind:
        kit.kind.setCurrentText(str(kind))
        demo.click(kit.add)
        assert kit.part.kind is kind
        assert len(kit.form.inputs) > 3 or kind is PartKind.TEE
    assert kit.title.text().startswith("new mismatch load")


def test_all_columns_of_the_levels_fit_beside_notes_at_1280(demo):
    demo.shell.resize(1280, 800)
    demo.shell.open_job("demo-knot")
    demo.press("alt+2")
    levels = demo.shell.bench.step_at(1).levels

    assert levels.isVisible() and levels.rowCount() > 5
    assert levels.horizontalHeader().length() <= levels.viewport().width()
