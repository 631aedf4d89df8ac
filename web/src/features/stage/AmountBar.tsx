import Box from "@mui/material/Box";
import { useEffect, useState } from "react";
import { closeAmount, flipAmount, judgedNow, leaveFlip, makeAmount, readyBefore, tryAmount } from "../../desk/amounts";
import { titled } from "../../desk/bound";
import { leaveTry } from "../../desk/posing";
import { useDesk } from "../../desk/store";
import { useInks } from "../../ui/look";
import { NumberField } from "../../ui/NumberField";
import { Slider } from "../../ui/opened";
import { SmallButton } from "../../ui/SmallButton";

const UNITS = { "%": "percent", "°": "degrees", mm: "millimetres" };

/** Where the eye is: how much there is of what the last step did, judged again and again, and what stood before. */
export function AmountBar() {
  const judged = useDesk(judgedNow);
  return judged && <Bar key={`${judged.measure.label} ${judged.field}`} judged={judged} />;
}

function Bar({ judged }: { judged: NonNullable<ReturnType<typeof judgedNow>> }) {
  const ink = useInks();
  const { measure, id, flipped, going } = judged;
  const frame = useDesk((s) => s.frame);
  const playing = useDesk((s) => s.playing);
  const [value, setValue] = useState(measure.value);
  const [known, setKnown] = useState(measure.value);
  if (known !== measure.value) {
    setKnown(measure.value);
    setValue(measure.value);
  }
  useEffect(() => {
    const timer = setTimeout(() => void readyBefore(), 120);
    return () => clearTimeout(timer);
  }, [id, frame, playing, going]);
  useEffect(() => leaveFlip, [frame, playing]);
  const within = (to: number) => Math.min(Math.max(to, measure.low), measure.high);
  function done(to: number) {
    setValue(to);
    if (to !== measure.value) void makeAmount(to);
    else leaveTry();
  }
  return (
    <Box
      role="group"
      aria-label="Amount of the last step"
      onPointerDown={(e) => e.stopPropagation()}
      onPointerMove={(e) => e.stopPropagation()}
      onWheel={(e) => e.stopPropagation()}
      sx={{
        position: "absolute",
        right: 10,
        bottom: 10,
        zIndex: 2,
        display: "flex",
        alignItems: "center",
        gap: 0.75,
        height: 34,
        px: 1,
        borderRadius: 1,
        border: 1,
        borderColor: ink.edge,
        bgcolor: ink.paper,
        fontSize: 12,
        whiteSpace: "nowrap",
      }}
    >
      <b>{measure.label}</b>
      <Slider
        size="small"
        aria-label={`${measure.label} of the last step`}
        min={measure.low}
        max={measure.high}
        step={measure.unit === "%" ? 1 : measure.high / 60}
        value={value}
        onChange={(_, v) => {
          setValue(v as number);
          tryAmount(v as number);
        }}
        onChangeCommitted={(_, v) => done(v as number)}
        onKeyDown={(e) => {
          if (e.key !== "Escape") return;
          e.preventDefault(); // the bar itself stays
          setValue(measure.value);
          leaveTry();
        }}
        sx={{
          width: 150,
          mx: 0.75,
          color: ink.blue,
          "& .MuiSlider-rail": { bgcolor: ink.line, opacity: 1 },
          "& .MuiSlider-track": { border: 0 },
        }}
      />
      <Box sx={{ width: 46 }}>
        <NumberField
          label={`${measure.label} of the last step in ${UNITS[measure.unit]}`}
          value={value}
          digits={{ "%": 0, mm: 1, "°": 2 }[measure.unit]}
          step={0}
          onType={(v, by) => done(within(by ? value + v : v))}
        />
      </Box>
      <Box component="span" sx={{ color: ink.faint }}>
        {measure.unit}
      </Box>
      <SmallButton on={flipped} onClick={() => void flipAmount()} title={titled("What stood before the step", "flip")}>
        Before
      </SmallButton>
      <SmallButton aria-label="Let the amount be" onClick={closeAmount} sx={{ px: 0.75 }} title="It is what it is">
        ✕
      </SmallButton>
    </Box>
  );
}
