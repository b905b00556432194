"""A whole machine with UEFI, Secure Boot on, in an emulator: it starts from an image, is pressed keys, and its screen is dumped."""

import json
import shutil
import socket
import subprocess
import time
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

FIRMWARE = Path("/usr/share/OVMF")
KEYS = {" ": "spc"}


class Machine:
    """Use it as a context; ``memory_mib`` of its display bounds the sizes that the firmware offers."""

    def __init__(
        self, image: Path, folder: Path, width: int, height: int, display_mib: int, usb_keyboard: bool
    ) -> None:
        self.screen, self.door = folder / "screen.png", folder / "door"
        shutil.copy(FIRMWARE / "OVMF_VARS_4M.ms.fd", folder / "variables.fd")  # the keys that laptops are sold with
        self.command = [
            *("qemu-system-x86_64", "-machine", "q35,smm=on,accel=tcg", "-cpu", "max", "-m", "512", "-display", "none"),
            *("-global", "driver=cfi.pflash01,property=secure,value=on", "-net", "none"),
            *("-drive", f"if=pflash,format=raw,unit=0,readonly=on,file={FIRMWARE / 'OVMF_CODE_4M.ms.fd'}"),
            *("-drive", f"if=pflash,format=raw,unit=1,file={folder / 'variables.fd'}"),
            *("-device", "qemu-xhci", "-drive", f"if=none,id=stick,format=raw,readonly=on,file={image}"),
            *("-device", "usb-storage,drive=stick", *(("-device", "usb-kbd") if usb_keyboard else ())),
            *("-vga", "none", "-device", f"bochs-display,edid=on,xres={width},yres={height},vgamem={display_mib}M"),
            *("-serial", f"file:{folder / 'serial.txt'}", "-qmp", f"unix:{self.door},server=on,wait=off"),
        ]

    def __enter__(self) -> "Machine":
        self.process = subprocess.Popen(self.command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        self.socket = socket.socket(socket.AF_UNIX)
        for _ in range(100):
            try:
                self.socket.connect(str(self.door))
                break
            except OSError:
                time.sleep(0.1)
        self.stream = self.socket.makefile("rw")
        self.stream.readline()
        self.ask("qmp_capabilities")
        return self

    def __exit__(self, *_: object) -> None:
        self.process.kill()
        self.process.wait()
        self.stream.close()
        self.socket.close()

    def ask(self, what: str, **arguments: Any) -> Any:
        self.stream.write(json.dumps({"execute": what, "arguments": arguments}) + "\n")
        self.stream.flush()
        while True:
            answer = json.loads(self.stream.readline())
            if "return" in answer or "error" in answer:
                return answer

    def press(self, key: str) -> None:
        self.ask("send-key", keys=[{"type": "qcode", "data": KEYS.get(key, key)}])

    def picture(self) -> NDArray[np.uint8]:
        """(H, W, 3) sRGB, what the display is sent."""
        self.ask("screendump", filename=str(self.screen), format="png")
        dump = cv2.imread(str(self.screen))
        assert dump is not None
        return np.ascontiguousarray(dump[..., ::-1])

    def shows(self, wanted: NDArray[np.uint8], within_s: float) -> bool:
        """Does its screen equal ``wanted``, every byte, within that time?"""
        end = time.monotonic() + within_s
        while time.monotonic() < end:
            if np.array_equal(self.picture(), wanted):
                return True
            time.sleep(0.2)
        return False

    def ended(self, within_s: float) -> bool:
        """Has it switched itself off?"""
        try:
            self.process.wait(within_s)
        except subprocess.TimeoutExpired:
            return False
        return True
