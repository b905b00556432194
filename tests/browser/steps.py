"""Steps through the interface that several browser tests take."""

import re
from collections.abc import Callable

from playwright.sync_api import Locator, Page, expect

from tests.browser.live import Served


def take_in(page: Page, title: str, size: str = "640x400") -> None:
    page.get_by_role("link", name="Take in a device").click()
    expect(page).to_have_url(re.compile("/jobs/new$"))
    page.get_by_label("Device", exact=False).first.fill(title)
    page.get_by_label("Complaint").fill("Small dots.")
    width, height = size.split("x")
    page.get_by_label("Panel width").fill(width)
    page.get_by_label("Height").fill(height)
    page.get_by_role("button", name="Open the job").click()
    expect(page.get_by_role("heading", name=title)).to_be_visible()


def link(page: Page, button: str) -> str:
    """The address that a dialog offers for another device."""
    page.get_by_role("button", name=button).click()
    address = page.get_by_role("dialog").get_by_role("link").get_attribute("href") or ""
    page.get_by_role("dialog").get_by_role("button", name="Close").click()
    expect(page.get_by_role("dialog")).to_have_count(0)
    return address


def station(page: Page, name: str) -> None:
    page.get_by_role("navigation", name="Stations").get_by_role("button", name=name).click()


def shoot_whole_set(page: Page) -> None:
    page.get_by_role("button", name="Simulated camera: whole set").click()


def look_closely(case: Served, page: Page) -> None:
    """By keyboard: the light layer, the first finding, its close-ups, a correction and taking it back."""
    page.keyboard.press("l")
    expect(page.get_by_role("img", name="Light field")).to_be_visible()
    case.assert_accessible(page, "light layer")
    page.keyboard.press("l")
    page.keyboard.press("n")
    detail = page.get_by_role("region", name="Finding")
    expect(detail.get_by_role("heading", name=re.compile("^Line at"))).to_be_visible()
    picture = detail.get_by_role("img", name=re.compile("^white"))
    # the set may still be fused: the finding grows with the photos, and its picture with it
    width = "image => image.complete ? image.naturalWidth : 0"
    for _ in range(40):
        if int(picture.evaluate(width)) > 400:
            break
        page.wait_for_timeout(250)
    case.assertGreater(int(picture.evaluate(width)), 400)
    page.keyboard.press("c")
    page.get_by_role("combobox", name="It is a").click()
    page.get_by_role("option", name="scratch").click()
    page.get_by_label("What you saw").fill("A scratch in the cover glass.")
    page.get_by_label("What you saw").press("Enter")
    expect(detail.get_by_role("heading", name=re.compile("^Scratch at"))).to_be_visible()
    expect(detail.get_by_text("the photos said line")).to_be_visible()
    case.assert_accessible(page, "finding")
    page.keyboard.press("u")
    expect(page.get_by_role("list", name="Findings").get_by_text("Line", exact=True)).to_be_visible()


def work_to(page: Page, last: str, pass_time: Callable[[], None] | None = None) -> None:
    """Do one open step after another: the first choice, the usual counts, everything noted, up to a step that stays undone; all of them without one.

    ``pass_time`` lets hours pass where a step waits for a clock.
    """
    while True:
        done = page.get_by_role("button", name=re.compile("^Done: "))
        if last:
            expect(done).to_be_visible()
        elif page.get_by_text("All steps are done").is_visible():
            return
        section = page.locator("section").filter(has=done).last
        title = section.get_attribute("aria-label") or ""
        if title == last:
            return
        if pass_time is not None and section.get_by_text(" waits: ").count():
            pass_time()
            page.reload()
            expect(done).to_be_visible()
            expect(page.get_by_text(" waits: ")).to_have_count(0)
            continue
        note(page, section)
        done.click()
        # looks at every frame, where an expectation looks after 0.1, 0.35, 0.85 s
        section.get_by_role("button", name=f"Done: {title.lower()}").wait_for(state="detached")


def look_by_eye(place: Page | Locator) -> None:
    """Where an inspection is asked for: all of it is looked at, and found good."""
    place.get_by_role("button", name="look by eye").click()
    for aspect in place.get_by_role("region", name="By eye").get_by_role("group").all():
        aspect.get_by_role("button", name="Good", exact=True).click()


def note(page: Page, section: Locator) -> None:
    """All that an open step asks for, as a careful technician enters it."""
    choice = section.get_by_role("radio").first
    if choice.count():
        choice.check()
    for box in section.get_by_role("textbox", name=re.compile("screws (out|back)$")).all():
        box.fill("4")
    for label, words in (
        ("If it is not held: why", "The key is broken."),
        ("Why there is no photo", "The camera is away."),
    ):
        box = section.get_by_role("textbox", name=label)
        if box.count():
            box.fill(words)
    if section.get_attribute("aria-label") == "Dry fit":
        look_by_eye(section)
    for name, option in (("Warmed with", "Hot air"), ("Held by", "Tape")):
        if section.get_by_role("combobox", name=name).count():
            section.get_by_role("combobox", name=name).click()
            page.get_by_role("option", name=option).click()
    for name in ("Moved", "Off"):
        for button in section.get_by_role("button", name=name, exact=True).all():
            button.click()
