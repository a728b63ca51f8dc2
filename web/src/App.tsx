import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import type { ReactNode } from "react";
import { Navigate, Route, Routes, Link as To, useLocation } from "react-router";
import { AccountPage } from "./accounts/AccountPage";
import { SignIn, SignUp } from "./accounts/SignIn";
import { useLive } from "./api/events";
import { useMe } from "./api/queries";
import { Assemble } from "./assemble/Assemble";
import { Print } from "./assemble/Print";
import { Check } from "./check/Check";
import { Games } from "./games/Games";
import { Join } from "./join/Join";
import { NewPack } from "./packs/NewPack";
import { Packs } from "./packs/Packs";
import { Column, Problem, Waiting } from "./parts/common";
import { Page, PackFrame } from "./parts/Frame";
import { Publish } from "./publish/Publish";
import { MyRigs } from "./rigs/MyRigs";
import { RollOut } from "./rollout/RollOut";
import { Shelves } from "./shelves/Shelves";

function SignedIn({ children }: { children: ReactNode }) {
  const me = useMe();
  const place = useLocation();
  if (me.error) return <Problem error={me.error} again={() => void me.refetch()} />;
  if (!me.data) return <Waiting what="Asking who is signed in" />;
  if (!me.data.signed_in) return <Navigate to={`/sign-in?next=${encodeURIComponent(place.pathname + place.search)}`} replace />;
  return children;
}

function Live({ children }: { children: ReactNode }) {
  useLive("", "");
  return <Page>{children}</Page>;
}

function Nowhere() {
  return (
    <Page>
      <Column>
        <Typography variant="h1" gutterBottom>
          There is no such page
        </Typography>
        <Link component={To} to="/">
          To your packs
        </Link>
      </Column>
    </Page>
  );
}

export function App() {
  return (
    <Routes>
      <Route path="/sign-in" element={<SignIn />} />
      <Route path="/sign-up" element={<SignUp />} />
      <Route path="/join/:code" element={<Join />} />
      <Route path="/" element={<SignedIn><Live><Packs /></Live></SignedIn>} />
      <Route path="/new" element={<SignedIn><Live><NewPack /></Live></SignedIn>} />
      <Route path="/account" element={<SignedIn><Live><AccountPage /></Live></SignedIn>} />
      <Route path="/my-rigs" element={<SignedIn><Live><MyRigs /></Live></SignedIn>} />
      <Route path="/shelves" element={<SignedIn><Live><Shelves /></Live></SignedIn>} />
      <Route path="/games" element={<SignedIn><Live><Games /></Live></SignedIn>} />
      <Route path="/packs/:pack/print" element={<SignedIn><Print /></SignedIn>} />
      <Route path="/packs/:pack" element={<SignedIn><PackFrame /></SignedIn>}>
        <Route index element={<Navigate to="assemble" replace />} />
        <Route path="assemble" element={<Assemble />} />
        <Route path="check" element={<Check />} />
        <Route path="publish" element={<Publish />} />
        <Route path="roll-out" element={<RollOut />} />
      </Route>
      <Route path="*" element={<Nowhere />} />
    </Routes>
  );
}
