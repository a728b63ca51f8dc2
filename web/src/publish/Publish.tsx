// Publish: what the release would change, a version number by the size of the change, notes, and the past releases.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState, type FormEvent } from "react";
import { Link as To, useOutletContext } from "react-router";
import { useProposal, usePublish, useReleases } from "../api/queries";
import type { Draft, Proposal } from "../api/schema";
import { Mono, Problem, Time, Waiting } from "../parts/common";
import { DifferenceList } from "../parts/DifferenceList";
import { count } from "../parts/words";

export function Publish() {
  const { draft } = useOutletContext<{ draft: Draft }>();
  const proposal = useProposal(draft.slug);
  const [published, setPublished] = useState("");
  if (proposal.error) return <Problem error={proposal.error} again={() => void proposal.refetch()} />;
  if (!proposal.data) return <Waiting what="Comparing the draft with the last release" />;
  return (
    <Box sx={{ flex: 1, overflow: "auto", minHeight: 0 }}>
      <Box sx={{ maxWidth: 1180, mx: "auto", px: 3, py: 2.5, display: "grid", gridTemplateColumns: { xs: "1fr", md: "minmax(0, 1fr) 420px" }, columnGap: 5, rowGap: 3 }}>
        <Changes proposal={proposal.data} draft={draft} />
        <Box>
          {published && (
            <Alert severity="success" sx={{ mb: 2 }}>
              {draft.name} {published} is published. Rigs on its channel now count as behind until they sync.{" "}
              <Link component={To} to={`/packs/${draft.slug}/roll-out`}>Roll it out</Link>
            </Alert>
          )}
          <Form key={`${proposal.data.revision}-${proposal.data.last}`} proposal={proposal.data} draft={draft} onDone={setPublished} />
          <Past pack={draft.slug} />
        </Box>
      </Box>
    </Box>
  );
}

function Changes({ proposal, draft }: { proposal: Proposal; draft: Draft }) {
  const difference = proposal.difference;
  return (
    <section>
      <Typography variant="h1" gutterBottom>
        {proposal.last === null ? "The first release" : difference?.count ? `${count(difference.count, "change")} since ${proposal.last}` : `Nothing changed since ${proposal.last}`}
      </Typography>
      {proposal.last === null && (
        <Typography gutterBottom>
          {proposal.entries ? `All ${count(proposal.entries, "entry", "entries")} of the draft are frozen at their exact builds and checksums.` : "The draft is empty. Add mods to it first."}
        </Typography>
      )}
      {difference && <DifferenceList difference={difference} />}
      {proposal.last === null && (
        <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, columns: { sm: 2 } }}>
          {draft.entries.filter((entry) => entry.enabled).map((entry) => (
            <Box component="li" key={entry.mod} sx={{ display: "flex", gap: 1, py: 0.3, breakInside: "avoid" }}>
              <Box component="span" sx={{ flex: 1 }}>{entry.name}</Box>
              <Mono>{entry.version}</Mono>
            </Box>
          ))}
        </Box>
      )}
    </section>
  );
}

function Form({ proposal, draft, onDone }: { proposal: Proposal; draft: Draft; onDone: (version: string) => void }) {
  const [version, setVersion] = useState(proposal.version);
  const [channel, setChannel] = useState("steady");
  const [notes, setNotes] = useState(proposal.notes);
  const publish = usePublish(draft.slug, onDone);
  const same = proposal.last !== null && !proposal.difference?.count;
  const blocked = proposal.entries === 0 || same || draft.problems.length > 0;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    publish.mutate({ revision: proposal.revision, version: version.trim(), channel, notes });
  };
  return (
    <Box component="form" onSubmit={submit} sx={{ display: "flex", flexDirection: "column", gap: 1.75 }}>
      <Problem error={publish.error} />
      {draft.problems.length > 0 && <Alert severity="error">The draft does not fit together: {draft.problems.join(" ")}</Alert>}
      <Box sx={{ display: "flex", gap: 1.5 }}>
        <TextField label="Version number" required value={version} onChange={(event) => setVersion(event.target.value)} sx={{ flex: 1 }} helperText={proposal.last ? "Proposed by the size of the change." : "The first is 1.0.0."} />
        <TextField select label="Channel" value={channel} onChange={(event) => setChannel(event.target.value)} sx={{ flex: 1 }} helperText={channel === "steady" ? "For everybody." : "For those who try things."}>
          <MenuItem value="steady">steady</MenuItem>
          <MenuItem value="trial">trial</MenuItem>
        </TextField>
      </Box>
      <TextField label="Notes for members" multiline minRows={5} maxRows={14} value={notes} onChange={(event) => setNotes(event.target.value)} helperText="What changed, in their words. Made from the list; write over it." />
      <Typography variant="body2" color="textSecondary">A release never changes. If it was a mistake, publish a better one after it.</Typography>
      <Button type="submit" variant="contained" size="large" disabled={blocked || publish.isPending || !version.trim()}>
        {publish.isPending ? "Freezing builds and checksums" : `Publish ${version}`}
      </Button>
    </Box>
  );
}

function Past({ pack }: { pack: string }) {
  const releases = useReleases(pack).data?.releases ?? [];
  if (releases.length === 0) return null;
  return (
    <Box component="section" sx={{ mt: 3 }}>
      <Typography variant="h2" gutterBottom>Published</Typography>
      <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0 }}>
        {releases.map((release) => (
          <Box component="li" key={release.version} sx={{ py: 0.75, borderTop: 1, borderColor: "divider" }}>
            <Box sx={{ display: "flex", gap: 1.5, alignItems: "baseline" }}>
              <Mono strong>{release.version}</Mono>
              <Typography variant="body2" color="textSecondary" sx={{ flex: 1 }}>
                {release.channel}, <Time at={release.published} />{release.by && `, ${release.by}`}
              </Typography>
              <Link href={`/api/packs/${pack}/releases/${release.version}/document`} variant="body2">document</Link>
            </Box>
            <Typography variant="caption" title={`SHA-256 ${release.digest}`}><Mono>{release.digest.slice(0, 16)}</Mono></Typography>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
