// The people of a pack and what they may do.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useState, type FormEvent } from "react";
import { useGiveRole, useRoster, useTakeOff } from "../api/queries";
import type { Draft } from "../api/schema";
import { Problem, Time, Waiting } from "../parts/common";

type Role = "owner" | "curator" | "member";
const ROLES: Role[] = ["owner", "curator", "member"];

export function People({ draft }: { draft: Draft }) {
  const roster = useRoster(draft.slug);
  const give = useGiveRole(draft.slug);
  const takeOff = useTakeOff(draft.slug);
  const [email, setEmail] = useState("");
  const [role, setRole] = useState<Role>("curator");
  const owner = draft.role === "owner";
  if (roster.error) return <Problem error={roster.error} again={() => void roster.refetch()} />;
  if (!roster.data) return <Waiting what="Fetching the roster" />;
  const submit = (event: FormEvent) => {
    event.preventDefault();
    give.mutate({ email, role }, { onSuccess: () => setEmail("") });
  };
  return (
    <>
      <Problem error={give.error} />
      <Problem error={takeOff.error} />
      <Box component="ul" aria-label="People" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {roster.data.people.map((person) => (
          <Box component="li" key={person.id} sx={{ display: "flex", gap: 1.5, alignItems: "center", py: 0.6, borderBottom: 1, borderColor: "divider" }}>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              {person.name}
              <Typography variant="caption" color="textSecondary" component="div">{person.email || <>since <Time at={person.since} /></>}</Typography>
            </Box>
            {owner && (
              <Button color="inherit" onClick={() => takeOff.mutate(person.id)} disabled={takeOff.isPending} aria-label={`Take ${person.name} off the roster`}>
                Take off
              </Button>
            )}
            {owner ? (
              <TextField select value={person.role} onChange={(event) => give.mutate({ email: person.email, role: event.target.value as Role })} slotProps={{ htmlInput: { "aria-label": `Role of ${person.name}` } }} sx={{ width: 120 }}>
                {ROLES.map((one) => <MenuItem key={one} value={one}>{one}</MenuItem>)}
              </TextField>
            ) : (
              <Typography variant="body2">{person.role}</Typography>
            )}
          </Box>
        ))}
      </Box>
      {owner && (
        <Box component="form" onSubmit={submit} sx={{ display: "flex", gap: 1, mt: 1.5 }}>
          <TextField type="email" required label="Address of an account" value={email} onChange={(event) => setEmail(event.target.value)} sx={{ flex: 1 }} />
          <TextField select label="Role" value={role} onChange={(event) => setRole(event.target.value as Role)} sx={{ width: 120 }}>
            {ROLES.map((one) => <MenuItem key={one} value={one}>{one}</MenuItem>)}
          </TextField>
          <Button type="submit" variant="outlined">Put on the roster</Button>
        </Box>
      )}
    </>
  );
}
