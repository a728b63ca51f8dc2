import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState, type FormEvent } from "react";
import { useAccount, useMe } from "../api/queries";
import { Column, Fact, Problem } from "../parts/common";

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
    </Column>
  );
}
