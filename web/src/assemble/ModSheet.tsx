// A mod that is not in the draft: what it is, its builds, and adding it.
import Box from "@mui/material/Box";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useState, type ReactNode } from "react";
import { useMod } from "../api/queries";
import type { ModInfo } from "../api/schema";
import { Fact, Problem, Sheet, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { REACH, sides } from "../parts/words";
import { AddPanel } from "./AddPanel";
import type { Desk } from "./Assemble";
import { BuildList } from "./BuildList";

export function SheetTitle({ slug, name }: { slug: string; name: string }) {
  return (
    <Box sx={{ display: "flex", gap: 1.25, alignItems: "center" }}>
      <Emblem slug={slug} large={28} />
      <Typography variant="h2" noWrap>{name}</Typography>
    </Box>
  );
}

export function ModFacts({ mod }: { mod: ModInfo }) {
  const passed = mod.redistribution === "allowed" ? "may be passed on" : "may only be linked to";
  return (
    <>
      <Typography gutterBottom>{mod.summary}</Typography>
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr", gap: 1.25, my: 1.5 }}>
        <Fact label="By">{mod.authors.join(", ")}</Fact>
        <Fact label="Side">{sides(mod.sides)}</Fact>
        <Fact label="Reach">{REACH[mod.reach] ?? mod.reach}</Fact>
        <Fact label="Licence">{mod.licence ?? "unknown"}, {passed}</Fact>
        <Fact label="Installs">{mod.installs.toLocaleString("en")}</Fact>
        <Fact label="Page">{mod.page ? <Link href={mod.page} target="_blank" rel="noopener noreferrer">author's page</Link> : "none"}</Fact>
      </Box>
    </>
  );
}

export function ModSheet({ desk, mod }: { desk: Desk; mod: string }) {
  const found = useMod(desk.draft.slug, desk.draft.game, mod);
  const [version, setVersion] = useState<string>();
  const frame = (title: ReactNode, children: ReactNode) => <Sheet title={title} onClose={desk.close} wide={desk.wide} onWide={desk.onWide}>{children}</Sheet>;
  if (found.error) return frame("Mod", <Problem error={found.error} again={() => void found.refetch()} />);
  if (!found.data) return frame("Mod", <Waiting what="Fetching the mod" />);
  return frame(
    <SheetTitle slug={mod} name={found.data.name} />,
    <>
      <ModFacts mod={found.data} />
      {desk.mayEdit && <AddPanel desk={desk} mods={[mod]} version={version} onDone={() => setVersion(undefined)} />}
      <Typography variant="h3" sx={{ mt: 2 }}>Builds</Typography>
      <BuildList builds={found.data.builds} present={version ?? null} action="Take" onTake={desk.mayEdit ? setVersion : undefined} />
    </>,
  );
}
