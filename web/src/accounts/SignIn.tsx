import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState, type FormEvent } from "react";
import { Navigate, Link as To, useSearchParams } from "react-router";
import { useAccount, useMe } from "../api/queries";
import { Column, Problem } from "../parts/common";
import { Page } from "../parts/Frame";

/** Where to go after signing in; only ever a page of our own. */
function useNext(): string {
  const next = useSearchParams()[0].get("next") ?? "/";
  return next.startsWith("/") && !next.startsWith("//") ? next : "/";
}

interface FormProps {
  title: string;
  path: string;
  action: string;
  withName: boolean;
  other: { text: string; link: string; to: string };
}

function AccountForm({ title, path, action, withName, other }: FormProps) {
  const [name, setName] = useState("");
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const send = useAccount();
  const me = useMe().data;
  const next = useNext();
  if (me?.signed_in) return <Navigate to={next} replace />;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    send.mutate({ path, body: { email: email.trim(), password, ...(withName ? { name: name.trim() } : {}) } });
  };
  return (
    <Page>
      <Column>
        <Box component="form" onSubmit={submit} sx={{ display: "flex", flexDirection: "column", gap: 2, maxWidth: 420 }}>
          <Typography variant="h1">{title}</Typography>
          <Problem error={send.error} />
          {withName && <TextField label="Name that others see" required value={name} onChange={(event) => setName(event.target.value)} autoComplete="name" slotProps={{ htmlInput: { maxLength: 80 } }} />}
          <TextField label="Email address" type="email" required autoFocus value={email} onChange={(event) => setEmail(event.target.value)} autoComplete="email" />
          <TextField label="Password" type="password" required value={password} onChange={(event) => setPassword(event.target.value)} autoComplete={withName ? "new-password" : "current-password"} helperText={withName ? "At least eight characters that are not a common password." : undefined} />
          <Button type="submit" variant="contained" size="large" disabled={send.isPending}>
            {send.isPending ? "One moment" : action}
          </Button>
          <Typography>
            {other.text}{" "}
            <Link component={To} to={`${other.to}?next=${encodeURIComponent(next)}`}>
              {other.link}
            </Link>
          </Typography>
        </Box>
      </Column>
    </Page>
  );
}

export const SignIn = () => (
  <AccountForm title="Sign in" path="auth/login" action="Sign in" withName={false} other={{ text: "New here?", link: "Make an account", to: "/sign-up" }} />
);

export const SignUp = () => (
  <AccountForm title="Make an account" path="auth/signup" action="Make the account" withName other={{ text: "Have an account?", link: "Sign in", to: "/sign-in" }} />
);
