// Up to four mods side by side: what speaks for one or the other, at the build that would come.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import { Link as To, useSearchParams } from "react-router";
import { useBuildFiles, useMod } from "../api/queries";
import type { ModInfo } from "../api/schema";
import { Mono, Problem, Time, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { GradeMark } from "../parts/marks";
import { count, REACH, sides, size } from "../parts/words";
import type { Desk } from "./desk";

const LINES = ["Suits the draft", "Build", "Size", "Last update", "Needs", "Clashes with", "Needed by", "Side", "Reach", "Licence", "Saved worlds", "Installs", "Builds", "Files", "By"];
const MOST = 4;

export function Compare({ desk }: { desk: Desk }) {
  const [params] = useSearchParams();
  const mods = (params.get("beside") ?? "").split(",").filter(Boolean).slice(0, MOST);
  return (
    <Box sx={{ flex: 1, minHeight: 0, overflow: "auto", p: 2 }} tabIndex={0} role="region" aria-label="Mods compared">
      <Box sx={{ display: "flex", gap: 1.5, mb: 1.5, alignItems: "center" }}>
        <Button component={To} to={`?look=catalogue&compare=${mods.join(",")}`} variant="outlined">Back to the catalogue</Button>
        <Typography variant="h1">{count(mods.length, "mod")} side by side</Typography>
      </Box>
      <Box sx={{ display: "grid", gridTemplateColumns: `130px repeat(${mods.length}, minmax(190px, 1fr))`, gridTemplateRows: `auto repeat(${LINES.length}, auto)`, columnGap: 2, borderTop: 2, borderColor: "text.primary", minWidth: 130 + mods.length * 200 }}>
        <Box sx={{ display: "grid", gridTemplateRows: "subgrid", gridRow: `1 / span ${LINES.length + 1}` }}>
          <span />
          {LINES.map((line) => <Typography key={line} variant="body2" color="textSecondary" sx={{ py: 0.6, borderBottom: 1, borderColor: "divider" }}>{line}</Typography>)}
        </Box>
        {mods.map((mod) => <Column key={mod} mod={mod} desk={desk} />)}
      </Box>
    </Box>
  );
}

function Column({ mod, desk }: { mod: string; desk: Desk }) {
  const found = useMod(desk.draft.slug, desk.draft.game, mod);
  const frame = (children: ReactNode) => <Box data-compared={mod} sx={{ display: "grid", gridTemplateRows: "subgrid", gridRow: `1 / span ${LINES.length + 1}`, minWidth: 0 }}>{children}</Box>;
  if (found.error) return frame(<Problem error={found.error} />);
  if (!found.data) return frame(<Waiting what="Fetching the mod" />);
  return frame(<Cells mod={found.data} desk={desk} />);
}

function Cells({ mod, desk }: { mod: ModInfo; desk: Desk }) {
  const build = mod.builds.find((one) => one.version === mod.fit?.version) ?? mod.builds.find((one) => one.fits) ?? mod.builds[0];
  const files = useBuildFiles(desk.draft.slug, mod.game, mod.slug, build?.version ?? "").data;
  const there = mod.fit?.answer === "already-in";
  const good = there || mod.fit?.answer === "fits" || mod.fit?.answer === "older-build";
  const cells: ReactNode[] = [
    <Box key="fit" sx={{ display: "flex", gap: 0.75 }}><GradeMark grade={good ? "fine" : "stop"} label={good ? "suits" : "does not suit"} />{mod.fit?.reason}</Box>,
    <Mono key="version" strong>{build?.version ?? "none"}</Mono>,
    <Mono key="size">{build ? size(build.size) : ""}</Mono>,
    mod.builds[0]?.published ? <Time key="time" at={mod.builds[0].published} /> : "not known",
    build?.needs.join("; ") || "nothing",
    build?.clashes.join("; ") || "nothing",
    count(mod.needed_by_count, "mod"),
    sides(mod.sides),
    REACH[mod.reach] ?? mod.reach,
    `${mod.licence ?? "not stated"}, ${mod.redistribution === "allowed" ? "may be passed on" : "link only"}`,
    { none: "do not notice", adds: "keep what it added", "loses-on-removal": "lose things when it goes" }[mod.save_effect] ?? "",
    mod.installs.toLocaleString("en"),
    count(mod.builds.length, "build"),
    files ? `${files.whole ? "one archive" : count(files.files.filter((file) => file.target).length, "file")}${files.replaces ? `, replaces ${files.replaces} of the game` : ""}` : "",
    mod.authors.join(", "),
  ];
  return (
    <>
      <Box sx={{ display: "flex", gap: 1, alignItems: "center", py: 1 }}>
        <Emblem slug={mod.slug} large={30} />
        <Box sx={{ minWidth: 0, flex: 1 }}>
          <Typography variant="h2">{mod.name}</Typography>
          <Typography variant="caption" color="textSecondary" component="div" sx={{ lineHeight: 1.3 }}>{mod.summary}</Typography>
        </Box>
        {desk.mayEdit && !there && <Button variant="contained" onClick={() => desk.open({ sheet: "mod", sel: mod.slug })} aria-label={`Add ${mod.name}`}>Add</Button>}
      </Box>
      {cells.map((cell, index) => <Typography key={LINES[index]} variant="body2" component="div" sx={{ py: 0.6, borderBottom: 1, borderColor: "divider", overflowWrap: "anywhere" }}>{cell}</Typography>)}
    </>
  );
}
