// The findings, grouped by what to do next: stops first, then what somebody must decide, then what is good to know.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import FormControlLabel from "@mui/material/FormControlLabel";
import Switch from "@mui/material/Switch";
import Typography from "@mui/material/Typography";
import { useSearchParams } from "react-router";
import { useFindings, type Edit } from "../api/queries";
import type { Finding, Findings } from "../api/schema";
import type { Desk } from "../assemble/desk";
import { Empty, Problem, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { useKeys } from "../parts/keys";
import { GradeMark } from "../parts/marks";
import { count } from "../parts/words";

export const idOf = (finding: Finding) => `${finding.code}:${finding.mods.join(",")}:${finding.facts}`;

const GROUPS: [string, string, (finding: Finding) => boolean][] = [
  ["Mend these first", "The game will not do with them.", (one) => one.grade === "stop"],
  ["Decide these", "Mend them, or accept them with a reason.", (one) => one.grade === "caution" && one.accepted === null],
  ["Accepted", "They come back when their facts change.", (one) => one.accepted !== null],
  ["Good to know", "", (one) => one.grade === "note" && one.code !== "newer-build"],
  ["Newer builds", "Read what changed before taking them.", (one) => one.code === "newer-build"],
];

function verdict(found: Findings): string {
  if (found.stops) return `${count(found.stops, "stop")}: the game will not start with this draft`;
  if (found.cautions) return `Nothing stops the game; ${count(found.cautions, "thing")} to decide`;
  return "Nothing is in the way";
}

export function FindingsList({ desk }: { desk: Desk }) {
  const findings = useFindings(desk.draft.slug);
  const [params] = useSearchParams();
  const selected = params.get("sel") ?? "";
  const groups = GROUPS.map(([title, about, belongs]) => ({ title, about, rows: (findings.data?.findings ?? []).filter(belongs) })).filter((group) => group.rows.length > 0);
  const ids = groups.flatMap((group) => group.rows.map(idOf));
  const step = (by: number) => {
    const next = ids[Math.min(Math.max(ids.indexOf(selected) + by, 0), ids.length - 1)];
    if (next) desk.open({ sheet: "finding", sel: next });
  };
  useKeys({ j: () => step(1), k: () => step(-1) });
  if (findings.error) return <Problem error={findings.error} again={() => void findings.refetch()} />;
  if (!findings.data) return <Waiting what="Checking the draft" />;
  if (desk.draft.entries.length === 0) {
    return (
      <Empty title="Nothing to check yet">
        <Typography>Add mods at Assemble. What is wrong with them is found here, before anybody starts the game.</Typography>
      </Empty>
    );
  }
  const found = findings.data;
  return (
    <Box sx={{ px: 3, py: 2, maxWidth: 1100 }} data-findings={found.revision}>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", flexWrap: "wrap", mb: 1.5 }}>
        <Typography variant="h1" sx={{ flex: 1, minWidth: 260 }}>{verdict(found)}</Typography>
        {desk.mayEdit && found.mendable > 0 && (
          <Button variant="contained" onClick={() => desk.open({ sheet: "mend", sel: null })}>Mend all that have one safe answer</Button>
        )}
      </Box>
      {groups.map((group) => (
        <Box component="section" key={group.title} sx={{ mb: 2.5 }} aria-label={group.title}>
          <Typography variant="h2">{group.title} <Typography component="span" variant="body2" color="textSecondary">{group.about}</Typography></Typography>
          <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, mt: 0.5, borderTop: 2, borderColor: "text.primary" }}>
            {folded(group.rows).map((rows) => <Row key={rows.map(idOf).join()} rows={rows} desk={desk} selected={selected} />)}
          </Box>
        </Box>
      ))}
      {groups.length === 0 && <Typography>Every entry has what it needs, fits the ground and can be published.</Typography>}
      {desk.mayEdit && (
        <FormControlLabel sx={{ mt: 2 }} control={<Switch size="small" checked={desk.draft.fair} onChange={(event) => desk.make({ do: "set-fair", fair: event.target.checked })} slotProps={{ input: { "aria-label": "This pack plays fair" } }} />} label="This pack plays fair: point out what changes progression" />
      )}
    </Box>
  );
}

/** Findings that the same change mends stand together, so that one cause is one thing to do. */
function folded(rows: Finding[]): [Finding, ...Finding[]][] {
  const found = new Map<string, [Finding, ...Finding[]]>();
  for (const row of rows) {
    const key = row.fixes[0] && row.accepted === null ? JSON.stringify(row.fixes[0].edit) : idOf(row);
    const together = found.get(key);
    if (together) together.push(row);
    else found.set(key, [row]);
  }
  return [...found.values()];
}

function Row({ rows, desk, selected }: { rows: [Finding, ...Finding[]]; desk: Desk; selected: string }) {
  const finding = rows[0];
  const [first] = finding.fixes;
  const [mod] = finding.mods;
  const current = rows.some((row) => idOf(row) === selected);
  return (
    <Box component="li" data-finding={finding.code} sx={{ display: "flex", gap: 1.25, py: 1, px: 1, alignItems: "start", borderBottom: 1, borderColor: "divider", bgcolor: current ? "selected" : "background.paper" }}>
      <Box sx={{ pt: 0.4 }}><GradeMark grade={finding.grade} label={finding.grade} /></Box>
      {mod && <Emblem slug={mod} large={22} />}
      <Box sx={{ flex: 1, minWidth: 0 }}>
        {rows.map((row) => (
          <Typography key={idOf(row)} component="button" data-code={row.code} onClick={() => desk.open({ sheet: "finding", sel: idOf(row) })} sx={{ all: "unset", cursor: "pointer", display: "block", overflowWrap: "anywhere", "&:hover": { textDecoration: "underline" }, "&:focus-visible": { outline: "2px solid" } }}>{row.message}</Typography>
        ))}
        <Typography variant="body2" color="textSecondary">{finding.accepted !== null ? `Accepted: ${finding.accepted}` : finding.effect}</Typography>
      </Box>
      {desk.mayEdit && first && finding.accepted === null && (
        <Button variant="outlined" onClick={() => desk.make(first.edit as Edit)} sx={{ flex: "none", maxWidth: { xs: 150, md: 320 } }}>{first.label}</Button>
      )}
    </Box>
  );
}
