// Every revision in words, who made it and when.
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useHistory } from "../api/queries";
import { Mono, Problem, Sheet, Time, Waiting } from "../parts/common";
import type { Desk } from "./Assemble";

export function HistorySheet({ desk }: { desk: Desk }) {
  const history = useHistory(desk.draft.slug);
  return (
    <Sheet title="History" onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      <Problem error={history.error} again={() => void history.refetch()} />
      {!history.data && !history.error && <Waiting what="Fetching the history" />}
      <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {history.data?.revisions.map((revision) => (
          <Box component="li" key={revision.number} sx={{ display: "flex", gap: 1.5, py: 0.75, borderBottom: 1, borderColor: "divider" }}>
            <Mono>{revision.number}</Mono>
            <Box sx={{ minWidth: 0 }}>
              <Typography variant="body2" sx={{ overflowWrap: "anywhere" }}>{revision.by || "Somebody"} {revision.words}</Typography>
              <Typography variant="caption" color="textSecondary"><Time at={revision.made} /></Typography>
            </Box>
          </Box>
        ))}
      </Box>
    </Sheet>
  );
}
