// The list of a pack as a page to print: no colours, no controls, everything that tells one copy from another.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Typography from "@mui/material/Typography";
import { useParams } from "react-router";
import { useDraft } from "../api/queries";
import { Mono, Problem, Waiting } from "../parts/common";
import { count, sides, size } from "../parts/words";

export function Print() {
  const { pack = "" } = useParams();
  const found = useDraft(pack);
  if (found.error) return <Problem error={found.error} again={() => void found.refetch()} />;
  if (!found.data) return <Waiting what="Fetching the list" />;
  const draft = found.data;
  const rows = draft.entries.filter((entry) => entry.enabled).sort((one, two) => one.name.localeCompare(two.name));
  return (
    <Box component="main" sx={{ maxWidth: 1000, mx: "auto", p: 3, bgcolor: "background.paper", "@media print": { p: 0, "& button": { display: "none" } } }}>
      <Box sx={{ display: "flex", alignItems: "baseline", gap: 2 }}>
        <Typography variant="h1" sx={{ flex: 1 }}>{draft.name}</Typography>
        <Button variant="contained" onClick={() => window.print()}>Print</Button>
      </Box>
      <Typography gutterBottom>
        {draft.game_name} {draft.game_version}{draft.loader && `, ${draft.loader_name} ${draft.loader.version ?? ""}`}. {count(rows.length, "entry", "entries")}, {size(draft.totals.download)} to download. Draft of revision {draft.revision}{draft.release && `, after release ${draft.release}`}, {new Date().toLocaleDateString("en-GB", { dateStyle: "long" })}.
      </Typography>
      <Box component="table" sx={{ width: "100%", borderCollapse: "collapse", fontSize: "0.85rem", "& th, & td": { textAlign: "left", borderBottom: "1px solid", borderColor: "divider", py: 0.4, pr: 1.5, verticalAlign: "top" }, "& thead": { display: "table-header-group" }, "& tr": { breakInside: "avoid" } }}>
        <thead><tr><th>Mod</th><th>Build</th><th>Side</th><th>Licence</th><th>Size</th><th>Checksum</th><th>Note</th></tr></thead>
        <tbody>
          {rows.map((entry) => (
            <tr key={entry.mod}>
              <td>{entry.name}</td>
              <td><Mono>{entry.version ?? "any"}</Mono>{entry.pin !== null && " pinned"}</td>
              <td>{sides(entry.sides)}</td>
              <td>{entry.licence ?? "not stated"}</td>
              <td><Mono>{size(entry.size)}</Mono></td>
              <td><Mono>{entry.sha256.slice(0, 12)}</Mono></td>
              <td>{[entry.optional ? (entry.one_of ? `one of ${entry.one_of}` : "optional") : "", entry.by_hand ? "fetch by hand" : "", entry.note].filter(Boolean).join("; ")}</td>
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}
