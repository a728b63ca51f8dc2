// Every revision in words, who made it and when; two of them compared; going back to one.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useCompared, useGoBack, useHistory } from "../api/queries";
import { Mono, Problem, Sheet, Time, Waiting } from "../parts/common";
import { DifferenceList } from "../parts/DifferenceList";
import type { Desk } from "./desk";

export function HistorySheet({ desk }: { desk: Desk }) {
  const history = useHistory(desk.draft.slug);
  const back = useGoBack(desk.draft.slug);
  const [marked, setMarked] = useState<number[]>([]);
  const revisions = history.data?.pages.flatMap((page) => page.revisions) ?? [];
  const mark = (number: number) => setMarked((before) => (before.includes(number) ? before.filter((one) => one !== number) : [...before, number].slice(-2)));
  const [one = 0, two = 0] = [...marked].sort((a, b) => a - b);
  return (
    <Sheet title="History" onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      <Problem error={history.error ?? back.error} again={history.error ? () => void history.refetch() : undefined} />
      {!history.data && !history.error && <Waiting what="Fetching the history" />}
      <Typography variant="body2" color="textSecondary" gutterBottom>Mark two revisions to compare them.</Typography>
      {two > 0 && <Compared pack={desk.draft.slug} one={one} two={two} />}
      <Box component="ol" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {revisions.map((revision) => (
          <Box component="li" key={revision.number} data-revision={revision.number} sx={{ display: "flex", gap: 1, py: 0.5, borderBottom: 1, borderColor: "divider", alignItems: "start" }}>
            <Checkbox size="small" sx={{ p: 0.25 }} checked={marked.includes(revision.number)} onChange={() => mark(revision.number)} slotProps={{ input: { "aria-label": `Mark revision ${revision.number}` } }} />
            <Mono>{revision.number}</Mono>
            <Box sx={{ minWidth: 0, flex: 1 }}>
              <Typography variant="body2" sx={{ overflowWrap: "anywhere" }}>{revision.by || "Somebody"} {revision.words}</Typography>
              <Typography variant="caption" color="textSecondary"><Time at={revision.made} /></Typography>
            </Box>
            {desk.mayEdit && revision.number !== desk.draft.revision && (
              <Button onClick={() => back.mutate({ base: desk.draft.revision, to: revision.number })} aria-label={`Go back to revision ${revision.number}`}>Go back</Button>
            )}
          </Box>
        ))}
      </Box>
      {history.hasNextPage && <Button onClick={() => void history.fetchNextPage()} disabled={history.isFetchingNextPage}>Older revisions</Button>}
    </Sheet>
  );
}

function Compared({ pack, one, two }: { pack: string; one: number; two: number }) {
  const compared = useCompared(pack, one, two);
  return (
    <Box data-compared={`${one}-${two}`} sx={{ p: 1.5, mb: 1.5, border: 1, borderColor: "divider", borderRadius: 1 }}>
      <Typography variant="h3" gutterBottom>From revision {one} to {two}</Typography>
      <Problem error={compared.error} />
      {!compared.data && !compared.error && <Waiting what="Comparing" />}
      {compared.data && (compared.data.count === 0 ? <Typography variant="body2">They are the same.</Typography> : <DifferenceList difference={compared.data} />)}
    </Box>
  );
}
