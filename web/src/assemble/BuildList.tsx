// The builds of a mod, newest first, each with whether it suits the draft and what changed; narrowed where there are many.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import type { BuildRow } from "../api/schema";
import { Mono, Prose, Time } from "../parts/common";
import { GradeMark } from "../parts/marks";
import { size } from "../parts/words";

interface Props {
  builds: BuildRow[];
  present: string | null;
  action: string;
  onTake?: (version: string) => void;
}

const MANY = 4;
const SHOWN = 12;

export function BuildList({ builds, present, action, onTake }: Props) {
  const [fitting, setFitting] = useState(false);
  const [finished, setFinished] = useState(false);
  const [all, setAll] = useState(false);
  const found = builds.filter((build) => (!fitting || build.fits !== false) && (!finished || build.channel === "stable"));
  const shown = all ? found : found.slice(0, SHOWN);
  return (
    <>
      {builds.length > MANY && (
        <Box sx={{ display: "flex", gap: 1 }}>
          <FormControlLabel control={<Checkbox size="small" checked={fitting} onChange={(event) => setFitting(event.target.checked)} />} label={<Typography variant="body2">only what fits</Typography>} />
          <FormControlLabel control={<Checkbox size="small" checked={finished} onChange={(event) => setFinished(event.target.checked)} />} label={<Typography variant="body2">only stable</Typography>} />
        </Box>
      )}
      <Box component="ul" aria-label="Builds" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {shown.map((build) => <Row key={build.version} build={build} here={build.version === present} action={action} onTake={onTake} />)}
      </Box>
      {found.length === 0 && <Typography variant="body2">No build is left by this choice.</Typography>}
      {found.length > shown.length && <Button onClick={() => setAll(true)}>All {found.length} builds</Button>}
    </>
  );
}

function Row({ build, here, action, onTake }: { build: BuildRow; here: boolean; action: string; onTake: Props["onTake"] }) {
  const [open, setOpen] = useState(false);
  return (
    <Box component="li" data-build={build.version} sx={{ display: "flex", gap: 1, py: 0.75, borderBottom: 1, borderColor: "divider", alignItems: "start" }}>
      <Box sx={{ pt: 0.25 }}>{build.fits === null ? null : <GradeMark grade={build.fits ? "fine" : "stop"} label={build.fits ? "fits" : "does not fit"} />}</Box>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Mono strong>{build.version}</Mono>
        {build.channel !== "stable" && ` ${build.channel}`}
        <Typography component="span" variant="caption" color="textSecondary"> {build.published && <Time at={build.published} />}, {size(build.size)}</Typography>
        <Typography variant="caption" component="div">
          {build.fits === false ? build.reason : `For game version ${build.game_versions}${build.loaders.length ? `, ${build.loaders.join(" or ")}` : ""}`}
        </Typography>
        {build.withdrawn !== null && <Typography variant="caption" color="warning" component="div">Withdrawn{build.withdrawn ? `: ${build.withdrawn}` : ""}.</Typography>}
        {build.needs.length > 0 && <Typography variant="caption" color="textSecondary" component="div">Needs {build.needs.join("; ")}</Typography>}
        {build.clashes.length > 0 && <Typography variant="caption" color="textSecondary" component="div">Clashes with {build.clashes.join("; ")}</Typography>}
        {build.by_hand && <Typography variant="caption" color="warning" component="div">A person must fetch this file from the mod's page.</Typography>}
        {build.changelog && <Button onClick={() => setOpen(!open)} aria-expanded={open} aria-label={`What changed in ${build.version}`} sx={{ px: 0, minWidth: 0, py: 0 }}>{open ? "Hide what changed" : "What changed"}</Button>}
        {open && <Prose text={build.changelog} />}
      </Box>
      {here ? <Typography variant="body2">in the draft</Typography> : onTake && build.fits && <Button variant="outlined" onClick={() => onTake(build.version)} aria-label={`${action} ${build.version}`}>{action}</Button>}
    </Box>
  );
}
