"""The simulated bench: a panel, a camera and whole faulty devices in software, with the truth returned.

It shares no code with the rooms that measure, so that what they find is found and not remembered.
"""

from lens.simulate.camera import Camera, Dimming, Pose, Shot, closeup_pose, photograph, random_camera, random_pose
from lens.simulate.device import DeviceFault, FaultyPanel, crack_mask, emit, random_faults, shoot_set

__all__ = [
    "Camera", "DeviceFault", "Dimming", "FaultyPanel", "Pose", "Shot", "closeup_pose", "crack_mask", "emit", "photograph", "random_camera",
    "random_faults", "random_pose", "shoot_set",
]
