import Box from "@mui/material/Box";
import type { ComponentProps } from "react";
import { NumberField } from "../../ui/NumberField";

/** A number among words: no wider than it has to be. */
export const Small = (p: ComponentProps<typeof NumberField>) => (
  <Box sx={{ width: 56 }}>
    <NumberField {...p} />
  </Box>
);
