"""Open forms for marks: what is written comes back the same, and what comes in is explained or refused, never shifted."""

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from evenseam.core.errors import SpotError
from evenseam.core.exchange.marks import (
    FORMS,
    read_captions,
    read_csv,
    read_edl,
    read_marks,
    read_midi,
    read_otio,
    write_captions,
    write_csv,
    write_edl,
    write_marks,
    write_midi,
    write_otio,
)  # fmt: skip
from evenseam.core.spot import Hit, Line, Sheet, Shot
from evenseam.core.timebase import FrameRate
from tests.core.test_spot import spotted
from tests.core.test_timebase import RATES

any_text = st.text(max_size=30)
words = st.text(st.characters(categories=["L", "N"], include_characters=" -'äé"), max_size=20).map(
    lambda t: " ".join(t.split())
)
hits = st.lists(
    st.one_of(
        st.builds(
            Hit,
            st.integers(0, 100_000),
            words,
            st.sampled_from(["downbeat", "beat", "section", "last_hit"]),
            st.sampled_from(["must", "should", "nice"]),
            st.integers(0, 99),
        ),
        st.builds(
            lambda a, n, w: Hit(a, w, "silence", until_frames=a + n), st.integers(0, 100_000), st.integers(1, 500), words
        ),
    ),
    max_size=8,
    unique_by=lambda h: h.at_frames,
).map(lambda found: tuple(sorted(found, key=lambda h: h.at_frames)))
rates, starts = st.sampled_from(RATES), st.integers(0, 90_000)


@given(hits, rates, starts)
def test_a_table_comes_back_the_same(marks: tuple[Hit, ...], rate: FrameRate, start: int) -> None:
    if marks:
        back = read_csv(write_csv(marks, rate, start), rate, start)
        assert (back.hits, back.notes) == (marks, ())


@given(hits, rates)
def test_midi_markers_come_back_the_same(marks: tuple[Hit, ...], rate: FrameRate) -> None:
    if marks:
        back = read_midi(write_midi(marks, rate), rate)
        assert (back.hits, back.notes) == (marks, ())


@given(
    st.lists(
        st.builds(lambda a, n, t: Line(a, a + n, t), st.integers(0, 200_000), st.integers(2, 300), words.filter(bool)),
        min_size=1,
        max_size=6,
    ),
    rates,
    st.sampled_from(["vtt", "srt"]),
)
@settings(deadline=None)
def test_captions_come_back_the_same(spoken: list[Line], rate: FrameRate, form: str) -> None:
    back = read_captions(write_captions(tuple(spoken), rate, form), rate)  # type: ignore[arg-type]
    assert back.lines == tuple(sorted(spoken))


@given(spotted(), rates, starts)
@settings(deadline=None)
def test_edit_lists_and_timelines_come_back_the_same(drawn: Sheet, rate: FrameRate, start: int) -> None:
    sheet = Sheet(rate, drawn.length_frames, start, drawn.shots, tuple(sorted(drawn.hits, key=repr)), drawn.lines)
    edl = read_edl(write_edl(sheet), rate, start)
    assert (edl.shots, sorted(edl.hits, key=repr), edl.notes) == (sheet.shots, list(sheet.hits), ())
    otio = read_otio(write_otio(sheet), rate, start)
    assert (otio.shots, sorted(otio.hits, key=repr), sorted(otio.lines, key=repr)) == (
        sheet.shots,
        list(sheet.hits),
        sorted(sheet.lines, key=repr),
    )
    assert otio.notes == ()


EDL = """TITLE: OPEN NIGHT
FCM: NON-DROP FRAME

001  DOME1    V     C        01:00:00:00 01:00:04:00 10:00:00:00 10:00:04:00
* FROM CLIP NAME: slit opens.mov
* LOC: 10:00:02:10 RED     first star
002  DOME1    A     C        01:00:00:00 01:00:04:00 10:00:00:00 10:00:04:00
003  BUS      V     D    025 02:00:10:00 02:00:16:00 10:00:04:00 10:00:10:00
"""


def test_an_edit_list_is_read_with_what_had_to_be_left_out_said() -> None:
    read = read_edl(EDL, FrameRate(25), 10 * 3600 * 25)
    assert read.shots == (Shot(0, 100, "DOME1", 90_000, "slit opens.mov"), Shot(100, 250, "BUS", 180_250))
    assert read.hits == (Hit(60, "first star"),)
    assert [n.split(" ", 2)[1] for n in read.notes] == ["events", "dissolves,"]


def test_a_list_that_starts_elsewhere_is_explained_and_moved_only_on_request() -> None:
    with pytest.raises(SpotError, match="starts at 10:00:00:00, the picture at 01:00:00:00") as refused:
        read_edl(EDL, FrameRate(25), 3600 * 25)
    assert refused.value.params == {"first": "10:00:00:00", "start": "01:00:00:00"}
    moved = read_edl(EDL, FrameRate(25), 3600 * 25, shift=True)
    assert moved.shots[0].start_frames == 0
    assert "moved to the picture's start" in moved.notes[0]


def test_another_rate_is_converted_and_said_or_refused() -> None:
    table = write_csv((Hit(50, "lamp"),), FrameRate(25), 0)
    read = read_csv(table, FrameRate(50))
    assert read.hits[0].at_frames == 100
    assert "counts at 25" in read.notes[0]
    sheet = Sheet(FrameRate(25), 100, shots=(Shot(0, 100, "A"),), hits=(Hit(50, "lamp"),))
    timeline = read_otio(write_otio(sheet), FrameRate(30000, 1001))
    assert timeline.hits[0].at_frames == 60
    assert "counts at 25" in timeline.notes[0]
    with pytest.raises(SpotError, match=r"Line 4: .*another rate"):
        read_edl(EDL.replace("01:00:04:00 10", "01:00:04:24 10"), FrameRate(24), 0)
    with pytest.raises(SpotError, match="drop-frame, which 25 has not"):
        read_edl(EDL.replace("NON-DROP", "DROP"), FrameRate(25), 0)


@given(any_text, st.binary(max_size=200), rates)
@settings(deadline=None)
def test_nothing_but_a_reason_comes_out_of_what_is_no_marks(text: str, data: bytes, rate: FrameRate) -> None:
    attempts = [
        *(lambda f=f: f(text, rate) for f in (read_captions, read_csv, read_edl, read_otio)),
        lambda: read_captions("WEBVTT\n\n" + text, rate),
        lambda: read_csv("frame,label\n" + text, rate),
        lambda: read_edl(EDL + text, rate, shift=True),
        lambda: read_otio('{"OTIO_SCHEMA": "Timeline.1", "tracks": ' + text + "}", rate),
        lambda: read_midi(data, rate),
        lambda: read_midi(b"MThd\x00\x00\x00\x06\x00\x01\x00\x01\x00\x60MTrk" + data, rate),
    ]
    reasons = []
    for attempt in attempts:
        try:
            attempt()
        except SpotError as refused:
            reasons.append(refused.detail)
    assert all(len(reason) > 15 for reason in reasons)


WRONG_KINDS = ["null", "0", "[]", "{}", '{"OTIO_SCHEMA":"Clip.1"}', '{"OTIO_SCHEMA":"Nope.1"}', "[" * 100_000]
PLACES = [
    '{"OTIO_SCHEMA":"Timeline.1","tracks":%s}',
    '{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","markers":[{"OTIO_SCHEMA":"Marker.1","marked_range":%s}]}}',
]


@pytest.mark.parametrize("place", PLACES, ids=["tracks", "a mark"])
@pytest.mark.parametrize("what", WRONG_KINDS, ids=range(len(WRONG_KINDS)))
def test_a_timeline_with_something_else_in_a_place_is_refused_and_takes_nothing_down(place: str, what: str) -> None:
    with pytest.raises(SpotError, match="Export it again"):
        read_otio(place % what, FrameRate(25))


@pytest.mark.parametrize("rate", ["0.0", "-25.0", "Infinity", "NaN", "1e308"])
def test_a_timeline_that_counts_at_no_rate_is_refused_or_read(rate: str) -> None:
    sheet = Sheet(FrameRate(25), 100, hits=(Hit(50, "lamp"),))
    strange = write_otio(sheet).replace('"rate": 25.0', f'"rate": {rate}')
    assert strange != write_otio(sheet)
    try:
        at = [hit.at_frames for hit in read_otio(strange, FrameRate(25)).hits]
    except SpotError:
        at = []
    assert all(isinstance(frames, int) for frames in at)


def test_the_ending_of_a_name_says_the_form() -> None:
    sheet = Sheet(FrameRate(25), 300, 90_000, (Shot(0, 300, "A"),), (Hit(50, "Größe"),), (Line(10, 60, "Hier."),))
    for suffix in FORMS:
        back = read_marks(suffix, write_marks(suffix, sheet), sheet.rate, sheet.start_frames)
        assert back.hits == (sheet.hits if suffix not in (".vtt", ".srt") else ())
        assert back.lines == (sheet.lines if suffix in (".vtt", ".srt", ".otio") else ())
    old = write_csv(sheet.hits, sheet.rate).encode("latin-1")
    assert read_marks(".CSV", old, sheet.rate).hits[0].label == "Größe"
    with pytest.raises(SpotError, match=r"'\.pdf' is not a form of marks"):
        read_marks(".pdf", b"", sheet.rate)


def test_captions_lose_their_markup_and_say_what_was_too_short() -> None:
    text = "WEBVTT\n\nintro\n00:01.000 --> 00:02.000 line:0\n<v Ana>The <b>dome</b> opens.\n\n00:03.000 --> 00:03.005\nClick\n"
    read = read_captions(text, FrameRate(25))
    assert read.lines == (Line(25, 50, "The dome opens."),)
    assert "shorter than a frame" in read.notes[0]
    assert read_captions("1\r\n00:00:01,000 --> 00:00:02,000\r\nHi\r\n\r\n", FrameRate(50)).lines == (Line(50, 100, "Hi"),)


@pytest.mark.parametrize(
    ("table", "words"),
    [
        ("name,when\nlamp,5\n", "has to name the columns"),
        ("frame,label\nfive,lamp\n", "Row 2: 'five' in the column frame"),
        ("frame,kind\n5,bang\n", "Row 2: 'bang' is no kind of hit"),
        ("timecode\n00:00:01:10\n00:00:00:25\n", "Row 3: .*does not exist at 25"),
        ("seconds,tolerance_frames\n1.5,-2\n", "Row 2: A tolerance"),
        ("frame,kind\n5,silence\n", "Row 2: A silence needs an end"),
    ],
)
def test_a_table_is_refused_with_its_row(table: str, words: str) -> None:
    with pytest.raises(SpotError, match=words):
        read_csv(table, FrameRate(25))


def test_seconds_fall_on_the_nearest_frame_and_that_is_said() -> None:
    read = read_csv("seconds,label,weight\n2,lamp,must\n2.01,slit,\n", FrameRate(25))
    assert [(h.at_frames, h.weight) for h in read.hits] == [(50, "must"), (50, "should")]
    assert read.notes == ("1 of the times fall between two frames of this picture and were moved to the nearer one.",)
