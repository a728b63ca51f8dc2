// The builds of a mod, newest first, each with whether it suits the draft.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { BuildRow } from "../api/schema";
import { Mono, Time } from "../parts/common";
import { GradeMark } from "../parts/marks";
import { size } from "../parts/words";

interface Props {
  builds: BuildRow[];
  present: string | null;
  action: string;
  onTake?: (version: string) => void;
}

export function BuildList({ builds, present, action, onTake }: Props) {
  return (
    <Box component="ul" aria-label="Builds" sx={{ listStyle: "none", m: 0, p: 0 }}>
      {builds.map((build) => (
        <Box component="li" key={build.version} sx={{ display: "flex", gap: 1, py: 0.75, borderBottom: 1, borderColor: "divider", alignItems: "start" }}>
          <Box sx={{ pt: 0.25 }}>{build.fits === null ? null : <GradeMark grade={build.fits ? "fine" : "stop"} label={build.fits ? "fits" : "does not fit"} />}</Box>
          <Box sx={{ flex: 1, minWidth: 0 }}>
            <Mono strong>{build.version}</Mono>
            {build.channel !== "stable" && ` ${build.channel}`}
            <Typography component="span" variant="caption" color="textSecondary"> {build.published && <Time at={build.published} />}, {size(build.size)}</Typography>
            <Typography variant="caption" component="div">
              {build.fits === false ? build.reason : `For game version ${build.game_versions}${build.loaders.length ? `, ${build.loaders.join(" or ")}` : ""}`}
            </Typography>
            {build.needs.length > 0 && <Typography variant="caption" color="textSecondary" component="div">Needs {build.needs.join("; ")}</Typography>}
            {build.by_hand && <Typography variant="caption" color="warning" component="div">A person must fetch this file from the mod's page.</Typography>}
          </Box>
          {build.version === present ? <Typography variant="body2">in the draft</Typography> : onTake && build.fits && <Button variant="outlined" onClick={() => onTake(build.version)} aria-label={`${action} ${build.version}`}>{action}</Button>}
        </Box>
      ))}
    </Box>
  );
}
