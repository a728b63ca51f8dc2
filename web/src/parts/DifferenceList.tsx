// What changed between two states of a pack, in groups.
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import type { Difference, EntryChange } from "../api/schema";
import { Mono } from "./common";
import { GradeMark } from "./marks";

const GROUPS = [
  ["added", "Added"],
  ["removed", "Removed"],
  ["raised", "Raised"],
  ["lowered", "Lowered"],
  ["changed", "Changed"],
] as const;

function Line({ group, change }: { group: string; change: EntryChange }) {
  const moved = group === "raised" || group === "lowered";
  return (
    <Box component="li" sx={{ display: "flex", gap: 1.5, py: 0.4, borderBottom: 1, borderColor: "divider", alignItems: "baseline" }}>
      <Box component="span" sx={{ flex: 1, minWidth: 0 }}>
        {change.name}
        {(change.what?.length ?? 0) > 0 && `: ${change.what?.join("; ")}`}
        {group === "removed" && change.loses_saves && (
          <Box sx={{ display: "flex", gap: 0.75, alignItems: "center", color: "warning.main", fontSize: "0.85rem" }}>
            <GradeMark grade="caution" label="Caution" /> Saved things of this mod vanish from worlds.
          </Box>
        )}
      </Box>
      <Mono>{moved ? `${change.old} → ${change.new}` : group === "added" ? change.new : group === "removed" ? change.old : ""}</Mono>
    </Box>
  );
}

export function DifferenceList({ difference }: { difference: Difference }) {
  const sentences = [...difference.ground, ...difference.other];
  return (
    <Box sx={{ display: "flex", flexDirection: "column", gap: 1.5 }}>
      {GROUPS.map(([key, title]) => {
        const changes = difference[key];
        return (
          changes.length > 0 && (
            <section key={key}>
              <Typography variant="h3">{title} ({changes.length})</Typography>
              <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
                {changes.map((change) => <Line key={change.mod} group={key} change={change} />)}
              </Box>
            </section>
          )
        );
      })}
      {sentences.length > 0 && (
        <section>
          <Typography variant="h3">Also</Typography>
          {sentences.map((text) => <Typography key={text} variant="body2">{text}</Typography>)}
        </section>
      )}
    </Box>
  );
}
