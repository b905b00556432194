"""The guided camera shoots a whole set by itself: its live picture is a stream of what an automatic phone sees of the pattern that is shown."""

import json
import re
import statistics
import time

import numpy as np
from playwright.sync_api import Page, Route, expect

from lens.panel import make_panel
from lens.patterns import get_pattern, get_set, render
from lens.simulate import DeviceFault, FaultyPanel, emit, random_pose
from lens.simulate.phone import photograph_by_phone, random_phone
from server.inspections.models import Photo, Run
from tests.browser.live import Served
from tests.browser.steps import link, station, take_in

WIDTH, HEIGHT = 1024, 640
STREAM = (1920, 1440)
SET_S = 60.0
DEAD = DeviceFault(kind="dead_pixel", x=300, y=200)
# A hand that comes nearer, loses a side, and then holds on, trembling by a pixel or two; the device changes its picture a fifth of a second after
# it was told. ``hand.at`` is where the hand is; the test moves it on.
CAMERA = (
    f"const [width, height] = {list(STREAM)}"
    + """
window.hand = {at: 'far', refused: false}
navigator.mediaDevices.getUserMedia = async () => {
    if (window.hand.refused) throw new DOMException('no', 'NotAllowedError')
    const canvas = document.createElement('canvas')
    canvas.width = width
    canvas.height = height
    const context = canvas.getContext('2d')
    const pictures = {}
    let shown = null
    setInterval(async () => {
        const {pattern} = await (await fetch(location.pathname + '/state')).json()
        if (!pictures[pattern]) {
            const image = new Image()
            image.src = '/static/stream/' + pattern + '.jpg'
            await image.decode()
            pictures[pattern] = image
        }
        setTimeout(() => { shown = pictures[pattern] }, 200)
    }, 150)
    let n = 0
    setInterval(() => {
        if (!shown) return
        const places = {far: [400, 300, 0.5], aside: [500, 0, 1], near: [1.5 * Math.sin(n / 3), 1.5 * Math.cos(n / 4), 1]}
        const [x, y, size] = places[window.hand.at]
        n += 1
        context.fillRect(0, 0, canvas.width, canvas.height)
        context.drawImage(shown, x, y, size * canvas.width, size * canvas.height)
    }, 60)
    return canvas.captureStream(15)
}
"""
)
FRAMES = """() => {
    window.frames_ms = []
    new PerformanceObserver(list => list.getEntries().forEach(one => {
        if (one.name.includes('/frame?')) window.frames_ms.push(one.duration)
    })).observe({type: 'resource', buffered: true})
}"""


class Guided(Served):
    def stream(self, phone: Page, run: Run) -> None:
        """What an automatic phone would see of each pattern of the run."""
        rng = np.random.default_rng(11)
        held = random_phone(rng, *STREAM)
        panel = make_panel(WIDTH, HEIGHT)
        device = FaultyPanel(panel=panel, faults=(DEAD,))
        seen = {}
        for pattern in get_set("standard").patterns:
            light = emit(device, render(panel, get_pattern(pattern), run.run_code))
            pose = random_pose(panel, held.camera, rng, fill=0.85)
            seen[pattern] = photograph_by_phone(light, held, pose, rng)[0].data

        def answer(route: Route) -> None:
            name = route.request.url.rsplit("/", 1)[1].removesuffix(".jpg")
            route.fulfill(body=seen[name], content_type="image/jpeg")

        phone.route("**/static/stream/*", answer)
        phone.add_init_script(CAMERA)

    def test_one_hand_shoots_the_whole_set_in_a_minute(self) -> None:
        with self.page() as bench, self.page(signed_in=False, viewport={"width": 360, "height": 740}) as phone:
            take_in(bench, "Tablet of the reading room", f"{WIDTH}x{HEIGHT}")
            station(bench, "Inspect")
            address = link(bench, "Phone camera")
            run = Run.objects.latest("pk")
            self.stream(phone, run)
            phone.goto(address)
            phone.evaluate(FRAMES)
            phone.evaluate("window.hand.refused = true")
            begin = phone.get_by_role("button", name=re.compile("^Guided camera"))
            begin.click()
            expect(phone.locator("#no-guide")).to_contain_text("does not give the camera to this page")
            phone.evaluate("window.hand.refused = false")
            begin.press("Enter")
            sign = phone.locator("#sign")
            expect(sign).to_have_attribute("data-sign", "closer")
            expect(phone.get_by_text("Closer", exact=True)).to_be_visible()
            phone.evaluate("window.hand.at = 'aside'")
            expect(sign).to_have_attribute("data-sign", "cut_off")
            expect(sign).to_contain_text("The panel is cut off at the right.")
            self.assert_accessible(phone, "guided camera")
            self.assertEqual(Photo.objects.count(), 0, "nothing is shot until the picture is good")
            started = time.monotonic()
            phone.evaluate("window.hand.at = 'near'")
            expect(phone.locator("#guide-count")).to_contain_text("7 of 7 shot")
            took = time.monotonic() - started
            expect(sign).to_contain_text("All photos are read.")
            frames = phone.evaluate("window.frames_ms")
            p95 = statistics.quantiles(frames, n=20)[-1]
            print(f"figure: standard set by the guided camera: {took:.0f} s (wanted {SET_S:.0f})")
            # the stream is drawn and coded, and photos are read, on the same cores: `benchmark guided` has the figure of the bench alone
            print(f"figure: guidance beside the made-up stream, {len(frames)} frames, p95 {p95:.0f} ms")
            self.assertLess(took, SET_S)
            phone.keyboard.press("Escape")
            expect(begin).to_be_focused()
            expect(bench.get_by_role("list", name="Findings").get_by_text("dead pixel")).to_be_visible()
        reports = [json.loads(json.dumps(photo.report)) for photo in Photo.objects.filter(removed=False)]
        self.assertEqual({report["pattern"] for report in reports}, set(get_set("standard").patterns))
