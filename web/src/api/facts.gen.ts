// Made from hame/facts.py.
export const FACTS = {
  "columns": {
    "frame": 0,
    "value": 1,
    "shape": 2,
    "handles": 3,
    "inTime": 4,
    "inValue": 5,
    "outTime": 6,
    "outValue": 7,
    "strength": 8
  },
  "width": 9,
  "blocks": [
    {
      "name": "joints",
      "width": 8,
      "dragged": true
    },
    {
      "name": "controls",
      "width": 12,
      "dragged": true
    },
    {
      "name": "values",
      "width": 1,
      "dragged": false
    }
  ],
  "handles": {
    "auto": 0,
    "free": 1,
    "flat": 2,
    "chord": 3
  },
  "freeBoth": 5,
  "ways": [
    "stepped",
    "even",
    "smooth",
    "slow start",
    "slow stop",
    "both",
    "wind-up",
    "overshoot",
    "bounce",
    "instant"
  ],
  "shapes": {
    "stepped": 0,
    "even": 1,
    "smooth": 2,
    "slow start": 3,
    "slow stop": 4,
    "both": 5,
    "wind-up": 6,
    "overshoot": 7,
    "bounce": 8,
    "instant": 9
  },
  "tenPercent": 1.70158,
  "poses": [
    "arc",
    "bend knee",
    "breakdown",
    "bring",
    "by hand",
    "chain mode",
    "exaggerate",
    "express",
    "key",
    "lay",
    "mirror",
    "paste",
    "pose",
    "pull",
    "reset",
    "touch",
    "weight"
  ],
  "channels": [
    "place",
    "turn",
    "scale",
    "extra"
  ],
  "spans": [
    "belonging",
    "blink",
    "carry-through",
    "counter",
    "cycle",
    "foot down",
    "gaze",
    "give",
    "knock",
    "layer",
    "living",
    "plant",
    "shake",
    "spring",
    "way"
  ],
  "layers": {
    "track": "layer",
    "mark": "#"
  },
  "quantities": {
    "speed": {
      "label": "Speed",
      "unit": "m/s"
    },
    "cadence": {
      "label": "Cadence",
      "unit": "steps/s"
    },
    "share": {
      "label": "Share on the ground",
      "unit": "%"
    },
    "together": {
      "label": "Both feet together",
      "unit": ""
    },
    "width": {
      "label": "Width",
      "unit": "m"
    },
    "toe_out": {
      "label": "Toes out",
      "unit": "rad"
    },
    "facing": {
      "label": "Turned from the way",
      "unit": "rad"
    },
    "lift": {
      "label": "Foot lift",
      "unit": "% of the leg"
    },
    "strike": {
      "label": "Toes up as the heel lands",
      "unit": "rad"
    },
    "push": {
      "label": "Up over the toes",
      "unit": "rad"
    },
    "bounce": {
      "label": "Bounce",
      "unit": "%"
    },
    "low": {
      "label": "Goes low",
      "unit": "% of the leg"
    },
    "turn": {
      "label": "Pelvis turns",
      "unit": "rad"
    },
    "list": {
      "label": "Pelvis lists",
      "unit": "rad"
    },
    "pitch": {
      "label": "Trunk pitch",
      "unit": "rad"
    },
    "lean": {
      "label": "Trunk leans over",
      "unit": "rad"
    },
    "chest": {
      "label": "Chest against pelvis",
      "unit": ""
    },
    "swing": {
      "label": "Arms swing",
      "unit": "rad"
    },
    "arm_bend": {
      "label": "Elbows bent",
      "unit": "rad"
    },
    "arm_bends": {
      "label": "Elbows bend ahead",
      "unit": "rad"
    },
    "arms_out": {
      "label": "Arms away",
      "unit": "rad"
    },
    "head": {
      "label": "Head pitch",
      "unit": "rad"
    },
    "steady": {
      "label": "Head steady",
      "unit": "%"
    },
    "late": {
      "label": "Hands late",
      "unit": "frames"
    },
    "hands": {
      "label": "Hands closed",
      "unit": "rad"
    },
    "uneven": {
      "label": "Uneven steps",
      "unit": "%"
    }
  },
  "ofQuantity": "~",
  "shelf": [
    "Oil can",
    "Signal lamp",
    "Crate",
    "Coil of rope",
    "Ladder",
    "Step",
    "Rail",
    "Lamp post",
    "Shot camera",
    "Bollard",
    "Boat-hook",
    "Sack",
    "Gallery",
    "Gangway"
  ],
  "limits": {
    "falls": 0.01,
    "outside": 0.05,
    "frames": 3,
    "pull": 10.0,
    "friction": 0.8,
    "flight": 15.0,
    "turning": 90.0,
    "landing": 5.0,
    "strength": 400.0
  }
} as const;
