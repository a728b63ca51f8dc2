// The member's page: what one comes aboard of, and the one command to paste. One thing at a time, large.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import { Link as To, useParams } from "react-router";
import { useBoarding, useMe, usePersonalCode } from "../api/queries";
import type { Boarding } from "../api/schema";
import { Column, Copyable, Fact, Mono, Problem, Prose, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { Page } from "../parts/Frame";
import { count, gibibytes, size } from "../parts/words";

export function Join() {
  const { code = "" } = useParams();
  const boarding = useBoarding(code);
  return (
    <Page>
      <Column>
        {boarding.error && (
          <>
            <Typography variant="h1" gutterBottom>This code takes you nowhere</Typography>
            <Problem error={boarding.error} again={() => void boarding.refetch()} />
          </>
        )}
        {!boarding.data && !boarding.error && <Waiting what="Looking up the boarding code" />}
        {boarding.data && <Aboard boarding={boarding.data} />}
      </Column>
    </Page>
  );
}

function Aboard({ boarding }: { boarding: Boarding }) {
  const me = useMe().data;
  const personal = usePersonalCode(boarding.code);
  const here = encodeURIComponent(`/join/${boarding.code}`);
  return (
    <Box sx={{ fontSize: "1.1rem", "& p": { fontSize: "1.1rem" } }}>
      <Box sx={{ display: "flex", gap: 2, alignItems: "center", mb: 2 }}>
        <Emblem slug={boarding.pack.toLowerCase().replace(/[^a-z0-9]+/g, "-")} large={56} />
        <Box>
          <Typography variant="h1" sx={{ fontSize: "2rem" }}>{boarding.pack}</Typography>
          <Typography color="textSecondary">{boarding.game} {boarding.game_version}{boarding.loader && `, ${boarding.loader}`}</Typography>
        </Box>
      </Box>
      {boarding.version === "" ? (
        <Typography>The pack has no release yet. Its curator is still at work; this page will have the command once there is one.</Typography>
      ) : (
        <>
          <Facts boarding={boarding} />
          {personal.data ? (
            <Steps command={personal.data.command} install={boarding.install}>
              <Typography color="textSecondary">This command is yours alone and works once within two days. For another machine, open this page again.</Typography>
            </Steps>
          ) : me?.signed_in ? (
            <Box sx={{ my: 3 }}>
              <Problem error={personal.error} />
              <Button variant="contained" size="large" fullWidth onClick={() => personal.mutate()} disabled={personal.isPending} sx={{ py: 1.5, fontSize: "1.15rem" }}>
                {boarding.aboard ? "Get the command for a rig" : "Come aboard"}
              </Button>
              <Typography color="textSecondary" sx={{ mt: 1 }}>You are signed in as {me.name}. Next you get one command to paste.</Typography>
            </Box>
          ) : (
            <>
              <Steps command={boarding.command} install={boarding.install} />
              <Typography color="textSecondary">
                To see your rig here later, <Link component={To} to={`/sign-in?next=${here}`}>sign in</Link> or <Link component={To} to={`/sign-up?next=${here}`}>make an account</Link> first.
              </Typography>
            </>
          )}
        </>
      )}
    </Box>
  );
}

function Facts({ boarding }: { boarding: Boarding }) {
  return (
    <>
      <Box sx={{ display: "grid", gridTemplateColumns: "repeat(auto-fit, minmax(120px, 1fr))", gap: 2, my: 2, py: 1.5, borderTop: 2, borderBottom: 1, borderColor: "divider" }}>
        <Fact label="Release"><Mono strong>{boarding.version}</Mono></Fact>
        <Fact label="Mods">{count(boarding.entries, "mod")}</Fact>
        <Fact label="Download">{size(boarding.size)}</Fact>
        <Fact label="Memory">about {gibibytes(boarding.memory_mib)}</Fact>
        {boarding.runtime !== null && <Fact label="Runtime">version {boarding.runtime}</Fact>}
      </Box>
      {boarding.by_hand > 0 && <Typography sx={{ mb: 1 }}>{count(boarding.by_hand, "file")} must be fetched by you from its author's page. The command will say which, from where, and how to save it.</Typography>}
      {boarding.notes && <Prose text={boarding.notes} />}
    </>
  );
}

function Steps({ command, install, children }: { command: string; install: string; children?: ReactNode }) {
  const number = { fontWeight: 700, fontSize: "1.1rem", mt: 2, mb: 0.75 };
  return (
    <Box sx={{ my: 3 }}>
      <Typography sx={number}>1. Open a terminal in the game's folder.</Typography>
      <Typography sx={number}>2. Paste this and press Enter.</Typography>
      <Copyable text={command} what="command" large />
      <Typography sx={number}>3. That is all.</Typography>
      <Typography gutterBottom>The folder is filled and follows the pack from then on. Files of yours that are in the way are set aside, never deleted.</Typography>
      {install && (
        <Box component="details" sx={{ my: 1.5 }}>
          <Box component="summary" sx={{ cursor: "pointer" }}>The first time on this machine</Box>
          <Typography sx={{ my: 1 }}>If the terminal does not know the command convoy, install it once with this. It needs Python 3.11 and uv.</Typography>
          <Copyable text={install} what="installation" />
        </Box>
      )}
      {children}
    </Box>
  );
}
