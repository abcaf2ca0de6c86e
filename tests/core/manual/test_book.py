"""The manual: whole, without a broken link, of the core's own figures, and as it lies in docs."""

import importlib
import pkgutil
import re
from pathlib import Path

import pypdfium2
import pytest

import tonleiter.core
from tonleiter.app.demo import shipped_demo
from tonleiter.core.gear.catalogue import KINDS
from tonleiter.core.guide import onair
from tonleiter.core.judge.findings.codes import known
from tonleiter.core.judge.verdict import verdict_of
from tonleiter.core.manual.book import computed, standing, whole
from tonleiter.core.manual.facts import CAUTION_TITLES
from tonleiter.core.manual.files import html_files, mark_of
from tonleiter.core.manual.glossary import term, terms, terms_in
from tonleiter.core.manual.html import inline
from tonleiter.core.manual.page import LINK, Shot, found
from tonleiter.core.safety.cautions import CAUTIONS
from tonleiter.core.sound.voices import voice
from tonleiter.core.station.files import read_station

ROOT = Path(__file__).resolve().parents[3]
DOCS = ROOT / "docs"


@pytest.fixture(scope="module")
def book():
    """With the whole voice that ships: the other tests speak more briefly."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(onair, "voice", voice)
        return whole(read_station(shipped_demo()).station)


@pytest.mark.long
def test_there_is_a_page_for_each_kind_finding_and_caution(book):
    for module in pkgutil.walk_packages(tonleiter.core.__path__, "tonleiter.core."):
        importlib.import_module(module.name)
    ids = {p.id for p in book.pages}
    assert {f"kind/{k}" for k in KINDS} <= ids
    assert {f"finding/{c}" for c in known()} == {i for i in ids if i.startswith("finding/")}
    assert {f"caution/{c}" for c in CAUTIONS} <= ids
    assert set(CAUTION_TITLES) == set(CAUTIONS)
    assert len([i for i in ids if i.startswith("job/")]) == 6
    assert len(ids) == len(book.pages)


@pytest.mark.long
def test_no_link_leads_nowhere_and_no_picture_is_missing(book):
    ids = {p.id for p in book.pages}
    for page in book.pages:
        for text in page.texts():
            for _, to in LINK.findall(text):
                assert to in ids, (page.id, to)
        for block in page.blocks:
            if isinstance(block, Shot):
                assert (DOCS / "screenshots" / f"{block.name}.png").exists(), block.name


NUMBER = re.compile(r"\d+(?:\.\d+)?")


def lying():
    return {f.name: f.read_text("utf-8") for f in (DOCS / "manual").glob("*.*[!f]")}


def agree(text, other):
    """The same words, and the same figures but for the last digit that is printed.

    Another processor adds up in another order: 12.35 is printed as 12.3 there and as 12.4 here.
    """
    if NUMBER.sub("#", text) != NUMBER.sub("#", other):
        return False
    for a, b in zip(NUMBER.findall(text), NUMBER.findall(other), strict=True):
        digit = 10.0 ** -len(a.partition(".")[2])
        if abs(float(a) - float(b)) > 1.01 * max(digit, 0.02 * abs(float(a))):
            return False
    return True


@pytest.mark.long
def test_what_lies_in_docs_is_what_would_be_made_now(book):
    """No figure of it is stale: it is made anew here and compared."""
    files, there = html_files(book), lying()
    assert sorted(there) == sorted(files)
    stale = [name for name in files if not agree(files[name], there[name])]
    assert stale == [], "run scripts/manual"


def test_a_stale_figure_and_a_stale_word_would_be_seen():
    assert agree("12.3 dB of it", "12.4 dB of it")
    assert not agree("12.3 dB of it", "13.3 dB of it")
    assert not agree("12.3 dB of it", "12.3 dB of that")
    assert not agree("key 1", "key 3")


def test_the_pdf_is_of_the_same_contents():
    document = pypdfium2.PdfDocument(DOCS / "manual" / "manual.pdf")
    assert mark_of(lying()) in document.get_metadata_dict()["Title"]
    assert len(document) > 20


@pytest.mark.long
def test_anchors_of_the_files_are_there(book):
    files = html_files(book)
    for name, content in files.items():
        for target, anchor in re.findall(r'href="([a-z-]+\.html)#([^"]+)"', content):
            assert f'id="{anchor}"' in files[target], (name, anchor)


def test_figures_of_a_job_are_those_of_the_chain(demo):
    """The hum of the hunt, against the verdict that the Ladder shows."""
    text = " ".join(computed("job/hum-hunt", demo)[0].texts())
    row = verdict_of(demo, "hf-weak-data").assessment.rows[-1]
    assert f"{row.hum_dbu:.1f}".replace("-", "−") in text
    assert f"{row.speech_dbu:.1f}".replace("-", "−") in text


def test_what_people_typed_stays_text():
    assert inline("a <b> & c", str) == "a &lt;b&gt; &amp; c"
    assert inline("press <<Why?>> or {Y}", str) == (
        'press <span class="button">Why?</span> or <kbd>Y</kbd>'
    )


def test_search_finds_titles_first():
    pages = standing().pages
    hits = found(pages, "electret bias")
    assert hits[0].title.lower().count("electret")
    assert found(pages, "zzzz") == ()


# --- words ---------------------------------------------------------------------------------------


def test_each_term_is_two_sentences_and_names_itself_once():
    names = [t.name for t in terms()]
    assert len(names) == len(set(names))
    spellings = [s.lower() for t in terms() for s in (t.name, *t.also)]
    assert len(spellings) == len(set(spellings))
    for t in terms():
        assert len(re.findall(r"[.?](?= [A-ZÀ-Ý0-9−]|$)", t.says)) == 2, t.name


@pytest.mark.parametrize("word", ["bias", "balanced", "ALC", "deviation", "dBu"])
def test_words_that_a_newcomer_stumbles_over_are_there(word):
    assert term(word) is not None


@pytest.mark.parametrize(
    ("text", "names"),
    [
        ("The bias of the bias feed", ["bias"]),
        ("an isolating transformer parts them", ["isolating transformer"]),
        ("−58.6 dBu", []),
        ("a level in dBu", ["dBu"]),
        ("somebody called Alc", []),
        ("phantom power for it", ["phantom power"]),
        ("unbalanced", ["unbalanced"]),
        ("Hot and cold changed over", ["hot", "cold"]),
        ("", []),
    ],
)
def test_terms_are_found_as_whole_words_once_each(text, names):
    assert [t.name for _, _, t in terms_in(text)] == names
