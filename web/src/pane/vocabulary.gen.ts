// Made of the core's tables by: python -m server.config.openapi. Do not edit.

export const KINDS = {
  "dead_pixel": {
    "title": "dead pixel",
    "family": "pixel",
    "of_panel": true,
    "pixel_class": "type_2",
    "evidence": "pixels",
    "carried_by_signal": true,
    "soft": false,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-9 -9h18v18h-18z",
      "filled": true,
      "dashed": false,
      "area": null
    }
  },
  "bright_pixel": {
    "title": "bright pixel",
    "family": "pixel",
    "of_panel": true,
    "pixel_class": "type_1",
    "evidence": "pixels",
    "carried_by_signal": true,
    "soft": false,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M0 -12L12 0L0 12L-12 0z",
      "filled": false,
      "dashed": false,
      "area": null
    }
  },
  "dark_subpixel": {
    "title": "dark subpixel",
    "family": "pixel",
    "of_panel": true,
    "pixel_class": "type_3",
    "evidence": "pixels",
    "carried_by_signal": true,
    "soft": false,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-9 7L0 -8L9 7z",
      "filled": true,
      "dashed": false,
      "area": null
    }
  },
  "bright_subpixel": {
    "title": "bright subpixel",
    "family": "pixel",
    "of_panel": true,
    "pixel_class": "type_3",
    "evidence": "pixels",
    "carried_by_signal": true,
    "soft": false,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-9 -7L0 8L9 -7z",
      "filled": false,
      "dashed": false,
      "area": null
    }
  },
  "cluster": {
    "title": "cluster",
    "family": "cluster",
    "of_panel": true,
    "pixel_class": "clusters",
    "evidence": "pixels",
    "carried_by_signal": true,
    "soft": false,
    "correctable": false,
    "ruled": true,
    "mark": {
      "path": "M-20 0a20 20 0 1 0 40 0a20 20 0 1 0 -40 0",
      "filled": false,
      "dashed": true,
      "area": null
    }
  },
  "line": {
    "title": "line",
    "family": "line",
    "of_panel": true,
    "pixel_class": "lines",
    "evidence": "lines",
    "carried_by_signal": true,
    "soft": false,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-12 0H12",
      "filled": false,
      "dashed": false,
      "area": null
    }
  },
  "band": {
    "title": "band",
    "family": "line",
    "of_panel": true,
    "pixel_class": "lines",
    "evidence": "lines",
    "carried_by_signal": true,
    "soft": false,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-12 -4H12V4H-12z",
      "filled": false,
      "dashed": false,
      "area": null
    }
  },
  "dark_zone": {
    "title": "dark zone",
    "family": "area",
    "of_panel": true,
    "pixel_class": "areas",
    "evidence": "zones",
    "carried_by_signal": false,
    "soft": true,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-14 8C-14 -12 14 -12 14 8z",
      "filled": true,
      "dashed": false,
      "area": {
        "fill": "#000",
        "opacity": 0.5,
        "dash": null
      }
    }
  },
  "bright_zone": {
    "title": "bright zone",
    "family": "area",
    "of_panel": true,
    "pixel_class": "areas",
    "evidence": "zones",
    "carried_by_signal": false,
    "soft": true,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-14 8C-14 -12 14 -12 14 8z",
      "filled": false,
      "dashed": false,
      "area": {
        "fill": "#fff",
        "opacity": 0.25,
        "dash": null
      }
    }
  },
  "bleed": {
    "title": "bleed",
    "family": "area",
    "of_panel": true,
    "pixel_class": null,
    "evidence": "bleed",
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": false,
    "mark": {
      "path": "M12 -12V12L-12 -12z",
      "filled": false,
      "dashed": false,
      "area": {
        "fill": "#fff",
        "opacity": 0.15,
        "dash": "12 6"
      }
    }
  },
  "discoloration": {
    "title": "tint",
    "family": "area",
    "of_panel": true,
    "pixel_class": null,
    "evidence": "tint",
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": false,
    "mark": {
      "path": "M-12 5a2.5 2.5 0 1 0 .1 0M0 -9a2.5 2.5 0 1 0 .1 0M12 5a2.5 2.5 0 1 0 .1 0",
      "filled": false,
      "dashed": false,
      "area": {
        "fill": "none",
        "opacity": 0.0,
        "dash": "2 7"
      }
    }
  },
  "mura": {
    "title": "mura",
    "family": "area",
    "of_panel": true,
    "pixel_class": null,
    "evidence": "zones",
    "carried_by_signal": false,
    "soft": true,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-14 0C-9 -9 -5 -9 0 0S9 9 14 0",
      "filled": false,
      "dashed": false,
      "area": {
        "fill": "none",
        "opacity": 0.0,
        "dash": "7 7"
      }
    }
  },
  "pressure_mark": {
    "title": "pressure mark",
    "family": "area",
    "of_panel": true,
    "pixel_class": "areas",
    "evidence": "zones",
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-14 -6L0 4L14 -6M-14 4L0 14L14 4M0 -16V-4",
      "filled": false,
      "dashed": false,
      "area": {
        "fill": "#000",
        "opacity": 0.25,
        "dash": "3 5"
      }
    }
  },
  "retained_image": {
    "title": "retained image",
    "family": "area",
    "of_panel": true,
    "pixel_class": null,
    "evidence": "retained",
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": false,
    "mark": {
      "path": "M-13 -9H5V6H-13zM-7 6V11H13V-4H5",
      "filled": false,
      "dashed": true,
      "area": {
        "fill": "none",
        "opacity": 0.0,
        "dash": "14 4 2 4"
      }
    }
  },
  "crack": {
    "title": "crack",
    "family": "whole",
    "of_panel": true,
    "pixel_class": "lines",
    "evidence": "crack",
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": true,
    "mark": {
      "path": "M-13 -11L-3 -3L-6 3L13 11M-3 -3L7 -11M-6 3L-12 9",
      "filled": false,
      "dashed": false,
      "area": {
        "fill": "#000",
        "opacity": 0.2,
        "dash": "16 5 4 5"
      }
    }
  },
  "artifact": {
    "title": "wrong picture",
    "family": "whole",
    "of_panel": true,
    "pixel_class": "lines",
    "evidence": "picture",
    "carried_by_signal": true,
    "soft": false,
    "correctable": false,
    "ruled": false,
    "mark": {
      "path": "M-13 -8H3V8H-13zM-3 -8V-12H13V4H3",
      "filled": false,
      "dashed": false,
      "area": {
        "fill": "none",
        "opacity": 0.0,
        "dash": "20 10"
      }
    }
  },
  "flicker": {
    "title": "flicker",
    "family": "area",
    "of_panel": true,
    "pixel_class": null,
    "evidence": "flicker",
    "carried_by_signal": false,
    "soft": false,
    "correctable": false,
    "ruled": false,
    "mark": {
      "path": "M-13 -8H13M-13 0H13M-13 8H13",
      "filled": false,
      "dashed": false,
      "area": {
        "fill": "none",
        "opacity": 0.0,
        "dash": "2 14"
      }
    }
  },
  "dim": {
    "title": "dim panel",
    "family": "area",
    "of_panel": true,
    "pixel_class": null,
    "evidence": null,
    "carried_by_signal": false,
    "soft": false,
    "correctable": false,
    "ruled": false,
    "mark": {
      "path": "M-11 0a11 11 0 1 0 22 0a11 11 0 1 0 -22 0M0 -11V11",
      "filled": false,
      "dashed": false,
      "area": {
        "fill": "#000",
        "opacity": 0.15,
        "dash": "1 12"
      }
    }
  },
  "no_light": {
    "title": "no light",
    "family": "whole",
    "of_panel": true,
    "pixel_class": "lines",
    "evidence": null,
    "carried_by_signal": false,
    "soft": false,
    "correctable": false,
    "ruled": false,
    "mark": {
      "path": "M-11 0a11 11 0 1 0 22 0a11 11 0 1 0 -22 0M-13 13L13 -13",
      "filled": true,
      "dashed": false,
      "area": {
        "fill": "#000",
        "opacity": 0.6,
        "dash": "24 8"
      }
    }
  },
  "dust": {
    "title": "dust",
    "family": "glass",
    "of_panel": false,
    "pixel_class": null,
    "evidence": null,
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": false,
    "mark": {
      "path": "M-7 -7L7 7M7 -7L-7 7",
      "filled": false,
      "dashed": false,
      "area": null
    }
  },
  "film": {
    "title": "film bubble",
    "family": "glass",
    "of_panel": false,
    "pixel_class": null,
    "evidence": null,
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": false,
    "mark": {
      "path": "M-7 -7L7 7M7 -7L-7 7M-11 -11h22v22h-22z",
      "filled": false,
      "dashed": false,
      "area": null
    }
  },
  "scratch": {
    "title": "scratch",
    "family": "glass",
    "of_panel": false,
    "pixel_class": null,
    "evidence": null,
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": false,
    "mark": {
      "path": "M-7 -7L7 7M7 -7L-7 7M-12 0H12",
      "filled": false,
      "dashed": false,
      "area": null
    }
  },
  "reflection": {
    "title": "reflection",
    "family": "glass",
    "of_panel": false,
    "pixel_class": null,
    "evidence": null,
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": false,
    "mark": {
      "path": "M-7 -7L7 7M7 -7L-7 7M0 -13L13 0L0 13L-13 0z",
      "filled": false,
      "dashed": false,
      "area": null
    }
  },
  "camera": {
    "title": "camera defect",
    "family": "camera",
    "of_panel": false,
    "pixel_class": null,
    "evidence": null,
    "carried_by_signal": false,
    "soft": false,
    "correctable": true,
    "ruled": false,
    "mark": {
      "path": "M-7 -7L7 7M7 -7L-7 7M-10 0a10 10 0 1 0 20 0a10 10 0 1 0 -20 0",
      "filled": false,
      "dashed": false,
      "area": null
    }
  }
} as const;

export const STATIONS = {
  "intake": {
    "title": "Intake",
    "stage": "inspect",
    "subjects": [
      "device"
    ]
  },
  "isolate": {
    "title": "Isolate",
    "stage": "inspect",
    "subjects": [
      "device"
    ]
  },
  "inspect": {
    "title": "Inspect",
    "stage": "inspect",
    "subjects": [
      "device",
      "panel"
    ]
  },
  "match": {
    "title": "Match",
    "stage": "inspect",
    "subjects": [
      "device"
    ]
  },
  "fit": {
    "title": "Fit",
    "stage": "dry_fit",
    "subjects": [
      "device"
    ]
  },
  "prove": {
    "title": "Prove",
    "stage": "closed",
    "subjects": [
      "device"
    ]
  },
  "hand_over": {
    "title": "Hand over",
    "stage": "closed",
    "subjects": [
      "device"
    ]
  },
  "grade": {
    "title": "Grade",
    "stage": "inspect",
    "subjects": [
      "panel"
    ]
  }
} as const;

export const STAGES = {
  "received": {
    "title": "At intake",
    "judged": false,
    "measured": false
  },
  "inspect": {
    "title": "As received",
    "judged": true,
    "measured": true
  },
  "external": {
    "title": "External output",
    "judged": false,
    "measured": true
  },
  "bench": {
    "title": "While fitting",
    "judged": false,
    "measured": false
  },
  "dry_fit": {
    "title": "Dry fit",
    "judged": true,
    "measured": true
  },
  "closed": {
    "title": "Closed",
    "judged": true,
    "measured": true
  },
  "recheck": {
    "title": "Re-test",
    "judged": true,
    "measured": true
  }
} as const;

export const WAITING = {
  "part": {
    "title": "A part"
  },
  "owner": {
    "title": "The owner's word"
  },
  "cure": {
    "title": "Adhesive to cure"
  },
  "specialist": {
    "title": "A specialist"
  }
} as const;

export const START_CONSENTS = {
  "account": {
    "title": "May be started, with the owner's account"
  },
  "guest": {
    "title": "Guest page or set-up page only"
  },
  "before_system": {
    "title": "Only before its system starts"
  },
  "not_at_all": {
    "title": "May not be started"
  }
} as const;

export const VALUE_SOURCES = {
  "measured": {
    "title": "measured",
    "strength": 5
  },
  "label": {
    "title": "from the label",
    "strength": 4
  },
  "edid": {
    "title": "from the EDID",
    "strength": 3
  },
  "typed": {
    "title": "typed",
    "strength": 2
  },
  "supplier": {
    "title": "by the supplier",
    "strength": 1
  }
} as const;
