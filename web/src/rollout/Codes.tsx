// Boarding codes: the one to hand out, large, and the earlier ones.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import MenuItem from "@mui/material/MenuItem";
import Paper from "@mui/material/Paper";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState } from "react";
import { useCodes, useIssueCode, useRevokeCode } from "../api/queries";
import type { CodeRow } from "../api/schema";
import { Copy, Copyable, Mono, Problem, Time } from "../parts/common";
import { MONO } from "../theme";

const LASTS: [string, number | null][] = [
  ["until revoked", null],
  ["a day", 1],
  ["a week", 7],
  ["three months", 90],
];

const usable = (code: CodeRow) => code.revoked === null && (code.expires === null || Date.parse(code.expires) > Date.now());

export function Codes({ pack }: { pack: string }) {
  const codes = useCodes(pack);
  const issue = useIssueCode(pack);
  const revoke = useRevokeCode(pack);
  const [channel, setChannel] = useState("steady");
  const [days, setDays] = useState<number | null>(null);
  const rows = codes.data?.codes ?? [];
  const current = rows.find(usable);
  const earlier = rows.filter((code) => code !== current);
  return (
    <Box component="section" aria-label="Boarding codes">
      <Paper sx={{ p: 2 }}>
        <Typography variant="h2">Boarding code</Typography>
        <Problem error={codes.error ?? issue.error ?? revoke.error} />
        {current ? (
          <>
            <Box sx={{ display: "flex", alignItems: "center", gap: 1, my: 1 }}>
              <Box component="code" data-code sx={{ fontFamily: MONO, fontWeight: 600, fontSize: "1.6rem", letterSpacing: "0.04em", flex: 1 }}>{current.code}</Box>
              <Copy text={current.code} what="boarding code" />
            </Box>
            <Typography variant="body2" color="textSecondary" gutterBottom>
              Follows {current.release ? `exactly ${current.release}` : `the ${current.channel} channel`}; {current.expires ? <>ends <Time at={current.expires} /></> : "valid until revoked"}.
            </Typography>
            <Typography variant="body2" sx={{ mt: 1 }}>Send members this page; it has the one command to paste:</Typography>
            <Copyable text={current.page} what="join page" />
            <Box sx={{ display: "flex", gap: 1, mt: 1 }}>
              <Link href={current.page} variant="body2" sx={{ flex: 1 }}>Open the join page</Link>
              <Button color="error" onClick={() => revoke.mutate(current.code)}>Revoke</Button>
            </Box>
          </>
        ) : (
          <Typography sx={{ my: 1 }}>A boarding code brings members aboard and follows the pack, so it is sent round only once.</Typography>
        )}
        <Box sx={{ display: "flex", gap: 1, mt: 1.5, pt: 1.5, borderTop: 1, borderColor: "divider" }}>
          <TextField select label="Follows" value={channel} onChange={(event) => setChannel(event.target.value)} sx={{ flex: 1 }}>
            <MenuItem value="steady">steady</MenuItem>
            <MenuItem value="trial">trial</MenuItem>
          </TextField>
          <TextField select label="Lasts" value={String(days)} onChange={(event) => setDays(event.target.value === "null" ? null : Number(event.target.value))} sx={{ flex: 1 }}>
            {LASTS.map(([words, value]) => <MenuItem key={words} value={String(value)}>{words}</MenuItem>)}
          </TextField>
          <Button variant={current ? "outlined" : "contained"} disabled={issue.isPending} onClick={() => issue.mutate({ channel, days, release: null })}>New code</Button>
        </Box>
      </Paper>
      {earlier.length > 0 && (
        <Box component="ul" aria-label="Earlier codes" sx={{ listStyle: "none", p: 0, m: 0, mt: 1 }}>
          {earlier.map((code) => (
            <Box component="li" key={code.code} sx={{ display: "flex", gap: 1, alignItems: "center", py: 0.5, borderBottom: 1, borderColor: "divider" }}>
              <Mono>{code.code}</Mono>
              <Typography variant="caption" color="textSecondary" sx={{ flex: 1 }}>
                {code.revoked ? <>revoked <Time at={code.revoked} /></> : usable(code) ? `valid, ${code.channel}` : "expired"}
              </Typography>
              {usable(code) && <Button color="error" onClick={() => revoke.mutate(code.code)}>Revoke</Button>}
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}
