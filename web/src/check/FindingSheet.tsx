// One finding, whole: what is wrong, what follows, every fix with what it would do, and accepting a caution.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link as To } from "react-router";
import { previewEdit, useFindings, type Edit } from "../api/queries";
import type { Finding, Fix } from "../api/schema";
import type { Desk } from "../assemble/desk";
import { Mono, Problem, Sheet, Waiting } from "../parts/common";
import { GradeMark } from "../parts/marks";
import { idOf } from "./FindingsList";

const GRADE_WORDS = { stop: "A stop", caution: "A caution", note: "A note" } as const;

export function FindingSheet({ desk, id }: { desk: Desk; id: string }) {
  const findings = useFindings(desk.draft.slug).data;
  const finding = findings?.findings.find((one) => idOf(one) === id);
  return (
    <Sheet title={finding ? GRADE_WORDS[finding.grade] : "Mended"} onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>
      {finding ? (
        <Body finding={finding} names={findings?.names ?? {}} desk={desk} />
      ) : (
        <Typography>{findings ? "This finding is gone." : "Checking the draft."}</Typography>
      )}
    </Sheet>
  );
}

function Body({ finding, names, desk }: { finding: Finding; names: Record<string, string>; desk: Desk }) {
  return (
    <>
      <Box sx={{ display: "flex", gap: 1, alignItems: "start" }}>
        <Box sx={{ pt: 0.3 }}><GradeMark grade={finding.grade} label={finding.grade} /></Box>
        <Box>
          <Typography sx={{ overflowWrap: "anywhere" }}>{finding.message}</Typography>
          <Typography color="textSecondary" gutterBottom>{finding.effect}</Typography>
        </Box>
      </Box>
      {finding.mods.length > 0 && (
        <Typography variant="body2" gutterBottom>
          Concerns {finding.mods.slice(0, 12).map((mod, index) => (
            <span key={mod}>{index > 0 && ", "}<Link component={To} to={`/packs/${desk.draft.slug}/assemble?sheet=mod&sel=${mod}`}>{names[mod] ?? mod}</Link></span>
          ))}
          {finding.mods.length > 12 && ` and ${finding.mods.length - 12} more`}.
        </Typography>
      )}
      {finding.paths.length > 0 && (
        <Box component="ul" sx={{ listStyle: "none", p: 0, m: 0, mb: 1, maxHeight: 160, overflow: "auto" }}>
          {finding.paths.slice(0, 200).map((path) => <li key={path}><Mono>{path}</Mono></li>)}
        </Box>
      )}
      {finding.fixes.length > 0 && <Typography variant="h3" sx={{ mt: 1.5 }}>{finding.fixes.length > 1 ? "Ways to mend it" : "How to mend it"}</Typography>}
      {finding.fixes.map((fix) => <Way key={fix.label} fix={fix} desk={desk} />)}
      {finding.fixes.length === 0 && finding.grade !== "note" && <Typography variant="body2">No single change mends this without stopping something else. Look at the other findings first.</Typography>}
      {finding.grade === "caution" && desk.mayEdit && <Acceptance finding={finding} desk={desk} />}
    </>
  );
}

function Way({ fix, desk }: { fix: Fix; desk: Desk }) {
  const edit = fix.edit as Edit;
  const preview = useQuery({
    queryKey: ["pack", desk.draft.slug, "draft", "preview-edit", desk.draft.revision, JSON.stringify(edit)],
    queryFn: () => previewEdit(desk.draft.slug, edit),
    staleTime: Infinity,
  });
  return (
    <Box sx={{ py: 1, borderTop: 1, borderColor: "divider" }}>
      {desk.mayEdit ? <Button variant="outlined" onClick={() => desk.make(edit)}>{fix.label}</Button> : <Typography>{fix.label}</Typography>}
      <Problem error={preview.error} />
      {!preview.data && !preview.error && <Waiting what="Working out what it would do" />}
      {preview.data && (
        <Box component="ul" sx={{ pl: 2.5, my: 0.5, color: "text.secondary", fontSize: "0.9rem" }}>
          {preview.data.does.slice(0, 8).map((line) => <li key={line}>{line}</li>)}
          {preview.data.does.length > 8 && <li>and {preview.data.does.length - 8} more changes</li>}
          {preview.data.gone.length > 1 && <li>{preview.data.gone.length} findings go</li>}
          {preview.data.new.map((line) => <li key={line}>new: {line}</li>)}
        </Box>
      )}
    </Box>
  );
}

function Acceptance({ finding, desk }: { finding: Finding; desk: Desk }) {
  const [reason, setReason] = useState("");
  const about = { code: finding.code, mods: finding.mods, facts: finding.facts };
  if (finding.accepted !== null) {
    return (
      <Box sx={{ mt: 2 }}>
        <Typography gutterBottom>Accepted: {finding.accepted}</Typography>
        <Button variant="outlined" onClick={() => desk.make({ do: "unaccept", ...about })}>No longer accept it</Button>
      </Box>
    );
  }
  return (
    <Box component="form" sx={{ mt: 2, display: "flex", gap: 1, alignItems: "start" }} onSubmit={(event) => (event.preventDefault(), desk.make({ do: "accept", ...about, reason: reason.trim() }))}>
      <TextField fullWidth label="Or accept it, because" value={reason} onChange={(event) => setReason(event.target.value)} slotProps={{ htmlInput: { maxLength: 500 } }} helperText="It stays in the list, and comes back when its facts change." />
      <Button type="submit" variant="outlined" disabled={!reason.trim()}>Accept</Button>
    </Box>
  );
}
