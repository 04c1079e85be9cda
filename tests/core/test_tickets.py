"""Tickets: what follows from settings, and what a measured strip says of a printer that is set wrong."""

import numpy as np
import pikepdf
import pytest

from plinto_core.errors import PolicyError
from plinto_core.icc import cmm
from plinto_core.icc.standard import rgb_profile
from plinto_core.pdf.draw import draw
from plinto_core.pdf.proof import ProofView
from plinto_core.pdf.set_up import set_up_document
from plinto_core.policy.check_strip import PATCHES, converted_again, hypotheses, read_strip, strip_of, unconverted
from plinto_core.policy.conversion import Conversions, destination_of
from plinto_core.policy.kinds import Catches
from plinto_core.policy.policy import Convert, Policy, Row
from plinto_core.policy.ticket import Ticket, ticket_from_json
from tests.conftest import profile_of


@pytest.mark.parametrize(
    ("ticket", "verdicts"),
    [
        (Ticket(), ["once"]),
        (Ticket(("application", "driver")), ["twice"]),
        (Ticket(("application", "driver", "RIP")), ["twice"]),
        (Ticket(()), ["never"]),
        (Ticket(("RIP",), (), True), ["once", "mirrored never"]),
        (Ticket(("RIP",), ("driver",), True), ["once"]),
        (Ticket(("RIP",), ("driver", "press"), True), ["once", "mirrored twice"]),
        (Ticket(("RIP",), ("driver", "press")), ["once", "mirrored twice"]),
        (Ticket((), ("press",)), ["never", "mirrored for nothing"]),
    ],
)
def test_a_ticket_alone_says_what_happens(ticket, verdicts):
    assert [verdict for verdict, _ in ticket.verdicts] == verdicts
    assert ticket.is_right == (verdicts == ["once"])
    assert ticket_from_json(ticket.to_json()) == ticket


def test_tickets_are_read_strictly():
    for plain, words in (
        ({"converts": ["driver", "driver"]}, "stands twice"),
        ({"converts": ["cloud"]}, "cannot be read at converts"),
        ({"mirror": []}, "nothing is called 'mirror'"),
        ([], "its beginning"),
    ):
        with pytest.raises(PolicyError, match=words):
            ticket_from_json(plain)


def test_two_hundred_wrong_printers_are_found_out():
    """Each measured with noise, on a press that is not quite what its profile says; the right cause first in 95 %."""
    random = np.random.default_rng(17)
    right = told = count = 0
    for slug, other in (("halden-silk-150", "murrow-offset-120"), ("cotton-54t", "tern-news-45")):
        press, others = profile_of(slug), (profile_of(other),)
        strip = strip_of(press, others)
        assert strip.shape == (PATCHES, 3) and len(np.unique(strip, axis=0)) >= PATCHES - 2
        made = {each.name: each.lab for each in hypotheses(press, others, strip)}
        made["mirrored"] = made["once"][::-1]
        for _ in range(100):
            name = list(made)[int(random.integers(0, len(made)))]
            drift = random.normal(0, 0.5, 3)
            lab = made[name] * (1 + random.normal(0, 0.004, 3)) + drift + random.normal(0, 0.45, made[name].shape)
            found = read_strip(press, others, strip, lab)
            count += 1
            right += found.ranked[0].name == name
            # Where it is sure, it is right; where it cannot tell, it says so.
            told += found.cause == name
            assert found.cause in ("", name), (slug, name, found.said)
    assert count == 200 and right >= 190 and told >= 180, (right, told)


def test_what_no_set_up_explains_is_said():
    press = profile_of("halden-silk-150")
    strip = strip_of(press)
    random = np.random.default_rng(3)
    found = read_strip(
        press, (), strip, np.column_stack([random.uniform(10, 90, PATCHES), random.normal(0, 30, (PATCHES, 2))])
    )
    assert found.cause == "" and "None of the set-ups prints this" in found.said
    with pytest.raises(PolicyError, match="at least 12"):
        read_strip(press, (), strip[:5], strip[:5])
    with pytest.raises(PolicyError, match="other inks"):
        hypotheses(press, (profile_of("sateen-reactive"),), strip)


@pytest.mark.parametrize("converted", ["twice", "never"])
def test_a_page_is_seen_as_a_wrong_ticket_prints_it_flat_colors_and_pictures_alike(converted, tmp_path, condition):
    """The chain applied twice, or not at all: what the strip's physics say of the same numbers."""
    press = condition("cotton-54t")
    codes = np.array([[217, 31, 92], [20, 120, 200], [240, 230, 210]], np.uint8)
    pdf = pikepdf.Pdf.new()
    page = pdf.add_blank_page(page_size=(60, 20))
    picture = pikepdf.Stream(pdf, np.repeat(codes[:, None], 8, axis=1).transpose(1, 0, 2).tobytes())
    picture.Type, picture.Subtype = pikepdf.Name.XObject, pikepdf.Name.Image
    picture.Width, picture.Height, picture.BitsPerComponent = 3, 8, 8
    picture.ColorSpace = pikepdf.Name.DeviceRGB
    page.Resources = pikepdf.Dictionary(XObject=pikepdf.Dictionary(P=pdf.make_indirect(picture)))
    flat = "".join(
        f"{' '.join(str(round(v / 255, 5)) for v in code)} rg {20 * at} 10 20 10 re f\n"
        for at, code in enumerate(codes)
    )
    page.Contents = pikepdf.Stream(pdf, f"{flat} q 60 0 0 10 0 0 cm /P Do Q".encode())
    pdf.save(tmp_path / "job.pdf")
    policy = Policy("All", (Row(Catches(), Convert()),), rgb="sRGB", cmyk="destination")
    data = set_up_document(
        tmp_path / "job.pdf", 0, converted, policy, press, view=ProofView(rgb_profile("sRGB")), limit=230
    )  # fmt: skip
    pixels = draw(data, 0, 72)
    rgb = codes / 255
    if converted == "never":
        inks = unconverted(press.model.inks, rgb)
    else:
        once = (
            Conversions(destination_of("condition", press, 230))
            .of(rgb_profile("sRGB"), Convert(), "relative")
            .values(rgb)
        )
        inks = converted_again(press.profile, once)
    wanted = cmm.from_lab(rgb_profile("sRGB"), press.model.lab(inks)) * 255
    for at in range(3):
        assert np.abs(pixels[5, 20 * at + 10] - wanted[at]).max() <= 3, "flat"
        assert np.abs(pixels[15, 20 * at + 10] - wanted[at]).max() <= 9, "picture"
    assert np.abs(wanted - codes).max() > 25
