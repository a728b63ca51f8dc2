import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState, type FormEvent } from "react";
import { useAccount, useImport, useJobs, useMe } from "../api/queries";
import { Column, Fact, Problem, Time } from "../parts/common";

export function AccountPage() {
  const me = useMe().data;
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useAccount();
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change.mutate({ path: "account/password/change", body: { current_password: old, new_password: fresh } }, { onSuccess: () => (setOld(""), setFresh("")) });
  };
  return (
    <Column>
      <Typography variant="h1" gutterBottom>
        Account
      </Typography>
      <Box sx={{ display: "flex", gap: 4, mb: 4 }}>
        <Fact label="Name">{me?.name}</Fact>
        <Fact label="Email address">{me?.email}</Fact>
      </Box>
      <Box component="form" onSubmit={submit} sx={{ display: "flex", flexDirection: "column", gap: 2, maxWidth: 420 }}>
        <Typography variant="h2">Change the password</Typography>
        <Problem error={change.error} />
        {change.isSuccess && <Alert severity="success">The password was changed.</Alert>}
        <TextField label="Present password" type="password" required value={old} onChange={(event) => setOld(event.target.value)} autoComplete="current-password" />
        <TextField label="New password" type="password" required value={fresh} onChange={(event) => setFresh(event.target.value)} autoComplete="new-password" helperText="At least eight characters that are not a common password." />
        <Button type="submit" variant="contained" disabled={change.isPending} sx={{ alignSelf: "start" }}>
          Change the password
        </Button>
      </Box>
      {me?.staff && <Imports />}
    </Column>
  );
}

/** For staff: bringing a catalogue in, and how earlier imports ended. */
function Imports() {
  const [address, setAddress] = useState("");
  const bring = useImport();
  const jobs = useJobs().data?.jobs ?? [];
  const submit = (event: FormEvent) => {
    event.preventDefault();
    bring.mutate(address.trim());
  };
  return (
    <Box component="section" aria-label="Catalogue" sx={{ mt: 5, display: "flex", flexDirection: "column", gap: 1.5 }}>
      <Typography variant="h2">Import a catalogue</Typography>
      <Typography color="textSecondary">It runs in the background; leaving the page does not stop it. What is there already is brought up to date.</Typography>
      <Problem error={bring.error} />
      <Box component="form" onSubmit={submit} sx={{ display: "flex", gap: 1 }}>
        <TextField label="Address of the feed" required value={address} onChange={(event) => setAddress(event.target.value)} sx={{ flex: 1 }} />
        <Button type="submit" variant="contained" disabled={bring.isPending}>
          Import
        </Button>
      </Box>
      <Box component="ul" aria-label="Imports" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {jobs.map((job) => (
          <Box component="li" key={job.id} sx={{ py: 0.5, borderBottom: 1, borderColor: "divider" }}>
            {job.title}: {job.state}, {job.done} {job.unit}, <Time at={job.created} />. {job.message}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
