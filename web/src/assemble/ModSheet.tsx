// A mod that is not in the draft: what it is, adding it, its builds, what it needs and what needs it, its files.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Link from "@mui/material/Link";
import Typography from "@mui/material/Typography";
import { useState, type ReactNode } from "react";
import { Link as To } from "react-router";
import { useBuildFiles, useMod, useShelfWork } from "../api/queries";
import type { ModInfo } from "../api/schema";
import { Fact, Mono, Problem, Prose, Sheet, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { count, REACH, sides, size } from "../parts/words";
import { AddPanel } from "./AddPanel";
import type { Desk } from "./desk";
import { BuildList } from "./BuildList";

export function SheetTitle({ slug, name }: { slug: string; name: string }) {
  return (
    <Box sx={{ display: "flex", gap: 1.25, alignItems: "center" }}>
      <Emblem slug={slug} large={28} />
      <Typography variant="h2" noWrap>{name}</Typography>
    </Box>
  );
}

const SAVES: Record<string, string> = { none: "worlds do not notice", adds: "adds things to worlds", "loses-on-removal": "saved things vanish when it goes" };

export function ModFacts({ mod }: { mod: ModInfo }) {
  const passed = mod.redistribution === "allowed" ? "may be passed on" : "may only be linked to";
  return (
    <>
      <Typography gutterBottom>{mod.summary}</Typography>
      {mod.abandoned && <Alert severity="info" sx={{ py: 0 }}>Its author no longer keeps it up.</Alert>}
      {mod.reach_open && <ReachOpen mod={mod} />}
      <Box sx={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr", gap: 1.25, my: 1.5 }}>
        <Fact label="By">{mod.authors.join(", ") || "not stated"}</Fact>
        <Fact label="Side">{sides(mod.sides)}</Fact>
        <Fact label="Reach">{REACH[mod.reach] ?? mod.reach}</Fact>
        <Fact label="Licence">{mod.licence ?? "not stated"}, {passed}</Fact>
        <Fact label="Installs">{mod.installs.toLocaleString("en")}</Fact>
        <Fact label="Saved worlds">{SAVES[mod.save_effect] ?? mod.save_effect}</Fact>
        <Fact label="Kind">{mod.kind_name}</Fact>
        <Fact label="Categories">{mod.categories.join(", ") || "none"}</Fact>
        <Fact label="Pages">
          {mod.page ? <Link href={mod.page} target="_blank" rel="noopener noreferrer">author's page</Link> : "none"}
          {mod.links.map((link) => <span key={link.address}>, <Link href={link.address} target="_blank" rel="noopener noreferrer">{link.label}</Link></span>)}
        </Fact>
      </Box>
      {mod.shelf && <Typography variant="body2" gutterBottom>It stands on the shelf “{mod.shelf}”.</Typography>}
      {mod.instructions && <Alert severity="info" sx={{ my: 1 }}>A person fetches its file: {mod.instructions}</Alert>}
    </>
  );
}

/** A reach that its team states and that somebody else of it has to check before it shows. */
function ReachOpen({ mod }: { mod: ModInfo }) {
  const { check } = useShelfWork();
  return (
    <Alert severity="warning" sx={{ my: 1 }} action={mod.may_check_reach && <Button color="inherit" onClick={() => check.mutate({ game: mod.game, mod: mod.slug })}>I have checked it</Button>}>
      Its team states the reach “{REACH[mod.reach_open] ?? mod.reach_open}”. Until another curator has checked that, it counts as shared.
      {check.error && <Problem error={check.error} />}
    </Alert>
  );
}

/** All that can be known of a mod below its first facts. */
export function MoreOfMod({ mod, desk, version }: { mod: ModInfo; desk: Desk; version: string | null }) {
  const shown = version ?? mod.builds.find((build) => build.fits)?.version ?? mod.builds[0]?.version ?? "";
  return (
    <>
      <Typography variant="h3" sx={{ mt: 2 }}>About</Typography>
      <Prose text={mod.description || "Nothing more is said about it."} />
      <Typography variant="h3" sx={{ mt: 2 }}>Who needs it</Typography>
      {mod.needed_by.length === 0 ? (
        <Typography variant="body2" color="textSecondary">Nothing in the catalogue needs it.</Typography>
      ) : (
        <Typography variant="body2">
          {mod.needed_by.slice(0, 20).map((one, index) => <span key={one.slug}>{index > 0 && ", "}<Link component="button" onClick={() => desk.open({ sheet: "mod", sel: one.slug })}>{one.name}</Link></span>)}
          {mod.needed_by_count > 20 && ` and ${mod.needed_by_count - 20} more`}
        </Typography>
      )}
      <Typography variant="h3" sx={{ mt: 2 }}>Your packs with it</Typography>
      <Typography variant="body2" component="div" color={mod.used_in.length ? undefined : "textSecondary"}>
        {mod.used_in.length === 0 && "None."}
        {mod.used_in.map((one) => <div key={one.pack}><Link component={To} to={`/packs/${one.pack}/assemble?sheet=mod&sel=${mod.slug}`}>{one.name}</Link> at <Mono>{one.version ?? "any"}</Mono>{one.enabled ? "" : ", turned off"}</div>)}
      </Typography>
      <BuildFilesList pack={desk.draft.slug} game={mod.game} mod={mod.slug} version={shown} />
    </>
  );
}

function BuildFilesList({ pack, game, mod, version }: { pack: string; game: string; mod: string; version: string }) {
  const [all, setAll] = useState(false);
  const files = useBuildFiles(pack, game, mod, version);
  if (!files.data) return null;
  const { replaces, whole } = files.data;
  const rows = files.data.files.filter((file) => file.target || whole);
  const shown = all ? rows : rows.slice(0, 12);
  return (
    <>
      <Typography variant="h3" sx={{ mt: 2 }}>Files of {version}</Typography>
      <Typography variant="body2" color={replaces ? "warning" : "textSecondary"} gutterBottom>
        {whole ? "The archive is placed whole." : `${count(rows.length, "file")} are placed.`} {replaces ? `${count(replaces, "file")} of the game itself ${replaces > 1 ? "are" : "is"} replaced.` : "None replaces a file of the game."}
      </Typography>
      <Box component="ul" sx={{ listStyle: "none", m: 0, p: 0, fontSize: "0.85rem" }}>
        {shown.map((file) => (
          <Box component="li" key={file.path} sx={{ display: "flex", gap: 1, borderBottom: 1, borderColor: "divider", py: 0.25 }}>
            <Box sx={{ flex: 1, minWidth: 0, overflowWrap: "anywhere", color: file.replaces ? "warning.main" : undefined }}><Mono>{file.target || file.path}</Mono>{file.replaces && " replaces the game's"}</Box>
            <Mono>{size(file.size)}</Mono>
          </Box>
        ))}
      </Box>
      {rows.length > shown.length && <Button onClick={() => setAll(true)}>All {rows.length}</Button>}
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
      {desk.mayEdit && <AddPanel desk={desk} mods={[mod]} versions={version ? { [mod]: version } : {}} onDone={() => setVersion(undefined)} />}
      <Box sx={{ mt: 2 }}><ModFacts mod={found.data} /></Box>
      <Typography variant="h3" sx={{ mt: 2 }}>Builds</Typography>
      <BuildList builds={found.data.builds} present={version ?? null} action="Take" onTake={desk.mayEdit ? setVersion : undefined} />
      <MoreOfMod mod={found.data} desk={desk} version={version ?? null} />
    </>,
  );
}
