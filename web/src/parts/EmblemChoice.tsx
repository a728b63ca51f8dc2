// Choosing an emblem: a handful to pick from, and more at the press of a button.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { Emblem } from "./Emblem";

const SHOWN = 6;

export function EmblemChoice({ emblem, onChoose }: { emblem: string; onChoose: (emblem: string) => void }) {
  const base = emblem.replace(/~\d+$/, "");
  const [from, setFrom] = useState(Number(/~(\d+)$/.exec(emblem)?.[1] ?? 0));
  const offered = Array.from({ length: SHOWN }, (_one, index) => (from + index === 0 ? base : `${base}~${from + index}`));
  return (
    <Box component="fieldset" sx={{ border: 0, p: 0, m: 0 }}>
      <Typography component="legend" variant="body2" color="textSecondary">Emblem</Typography>
      <Box sx={{ display: "flex", gap: 0.75, alignItems: "center", flexWrap: "wrap" }}>
        {offered.map((one, index) => (
          <Box key={one} component="button" type="button" aria-label={`Emblem ${from + index + 1}`} aria-pressed={one === emblem} onClick={() => onChoose(one)} sx={{ all: "unset", cursor: "pointer", p: 0.5, borderRadius: 1, outline: one === emblem ? "2px solid" : undefined, "&:focus-visible": { outline: "2px solid" } }}>
            <Emblem slug={one} large={32} />
          </Box>
        ))}
        <Button onClick={() => setFrom(from + SHOWN)}>Others</Button>
      </Box>
    </Box>
  );
}
