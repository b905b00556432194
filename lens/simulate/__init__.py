"""The simulated bench: a panel, a camera and whole faulty devices in software, with the truth returned.

It shares no code with the rooms that measure, so that what they find is found and not remembered.
"""

from lens.simulate.camera import photograph, photograph_flat, place_in_photo, shared_light
from lens.simulate.device import (
    CHANNELS,
    DeviceFault,
    FaultyPanel,
    control_share,
    crack_mask,
    emit,
    glass_of,
    random_faults,
)
from lens.simulate.edid import EdidPanel, cta_block, display_id_block, edid_of
from lens.simulate.glass import Blemish
from lens.simulate.poses import closeup_pose, random_camera, random_pose, standing_pose
from lens.simulate.scene import Camera, Dimming, Pose, Reflection, Shot
from lens.simulate.shooting import shoot, shoot_by_phone, shoot_set

__all__ = [
    "CHANNELS",
    "Blemish",
    "Camera",
    "DeviceFault",
    "Dimming",
    "EdidPanel",
    "FaultyPanel",
    "Pose",
    "Reflection",
    "Shot",
    "closeup_pose",
    "control_share",
    "crack_mask",
    "cta_block",
    "display_id_block",
    "edid_of",
    "emit",
    "glass_of",
    "photograph",
    "photograph_flat",
    "place_in_photo",
    "random_camera",
    "random_faults",
    "random_pose",
    "shared_light",
    "shoot",
    "shoot_by_phone",
    "shoot_set",
    "standing_pose",
]
