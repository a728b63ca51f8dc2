// The top bar, and inside a pack the route strip: the stations in the order of the work, each with a live figure.
import Autocomplete from "@mui/material/Autocomplete";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import LinearProgress from "@mui/material/LinearProgress";
import Link from "@mui/material/Link";
import Menu from "@mui/material/Menu";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useRef, useState, type MouseEvent, type ReactNode } from "react";
import { Link as To, NavLink, Outlet, useNavigate, useParams } from "react-router";
import { useLive } from "../api/events";
import { useAccount, useCancelJob, useDraft, useFindings, useJobs, useMe, useMods, usePacks, useRoad } from "../api/queries";
import type { Findings } from "../api/schema";
import { Glyph, Problem, Waiting } from "./common";
import { PackMark } from "./Emblem";
import { KEY_HELP, useKeys } from "./keys";
import { summary } from "./RoadView";
import { count } from "./words";

function useMenu(): [HTMLElement | null, (event: MouseEvent<HTMLElement>) => void, () => void] {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return [anchor, (event) => setAnchor(event.currentTarget), () => setAnchor(null)];
}

export function WordMark() {
  return (
    <Link component={To} to="/" color="textPrimary" aria-label="True Convoy, all packs" sx={{ display: "flex", alignItems: "center", gap: 1, fontWeight: 700, fontSize: "1.05rem", whiteSpace: "nowrap", "&:hover": { textDecoration: "none" } }}>
      <Box component="svg" viewBox="0 0 32 32" aria-hidden="true" sx={{ width: 26, height: 26 }}>
        <Box component="path" d="M2 23h28" sx={{ stroke: "var(--mui-palette-secondary-light)", strokeWidth: 2.5 }} />
        <Box component="path" d="M9 9l5 7-5 7-5-7zM20 6l6 10-6 10-6-10z" sx={{ fill: "var(--mui-palette-primary-main)" }} />
      </Box>
      <Box component="span" sx={{ display: { xs: "none", sm: "inline" } }}>
        True Convoy
      </Box>
    </Link>
  );
}

function PackSwitcher({ slug }: { slug: string }) {
  const [anchor, open, close] = useMenu();
  const packs = usePacks().data?.packs ?? [];
  const here = packs.find((pack) => pack.slug === slug);
  const name = here?.name ?? "Packs";
  return (
    <>
      <Button color="inherit" onClick={open} aria-haspopup="menu" sx={{ minWidth: 0, maxWidth: 240 }} endIcon={<Glyph path="M4 6L8 10L12 6" />}>
        <Box component="span" sx={{ overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }}>
          {name}
        </Box>
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={close}>
        {packs.map((pack) => (
          <MenuItem key={pack.slug} component={To} to={`/packs/${pack.slug}/assemble`} onClick={close} selected={pack.slug === slug}>
            <PackMark emblem={pack.emblem} picture={pack.picture} large={20} />
            <Box component="span" sx={{ ml: 1.25 }}>
              {pack.name}
            </Box>
          </MenuItem>
        ))}
        <MenuItem component={To} to="/" onClick={close}>
          All packs
        </MenuItem>
        <MenuItem component={To} to="/new" onClick={close}>
          New pack
        </MenuItem>
      </Menu>
    </>
  );
}

interface Hit {
  group: string;
  label: string;
  to: string;
}

function Search({ slug }: { slug: string }) {
  const [text, setText] = useState("");
  const field = useRef<HTMLInputElement>(null);
  const go = useNavigate();
  const packs = usePacks().data?.packs ?? [];
  const here = packs.find((pack) => pack.slug === slug) ?? packs[0];
  const mods = useMods({ pack: here?.slug ?? "", game: text.trim() ? (here?.game ?? "") : "", text: text.trim() }).data?.mods ?? [];
  useKeys({ "/": () => (document.querySelector<HTMLInputElement>("[data-search]") ?? field.current)?.focus() });
  const hits: Hit[] = [
    ...packs.filter((pack) => pack.name.toLowerCase().includes(text.toLowerCase())).map((pack) => ({ group: "Packs", label: pack.name, to: `/packs/${pack.slug}/assemble` })),
    ...(text.trim() && here ? mods.slice(0, 8).map((mod) => ({ group: `Mods of ${here.game_name}`, label: mod.name, to: `/packs/${here.slug}/assemble?sheet=mod&sel=${mod.slug}` })) : []),
  ];
  return (
    <Autocomplete
      freeSolo
      options={hits}
      groupBy={(hit) => hit.group}
      filterOptions={(options) => options}
      getOptionLabel={(hit) => (typeof hit === "string" ? hit : hit.label)}
      getOptionKey={(hit) => (typeof hit === "string" ? hit : hit.to)}
      inputValue={text}
      value={null}
      onInputChange={(_event, value) => setText(value)}
      onChange={(_event, hit) => {
        if (hit && typeof hit !== "string") void go(hit.to);
        setText("");
      }}
      sx={{ width: 300, display: { xs: "none", md: "block" } }}
      renderInput={(given) => <TextField {...given} inputRef={field} placeholder="Search packs and mods  ( / )" slotProps={{ ...given.slotProps, htmlInput: { ...given.slotProps.htmlInput, "aria-label": "Search packs and mods" } }} />}
    />
  );
}

function Jobs() {
  const cancel = useCancelJob();
  const running = (useJobs().data?.jobs ?? []).filter((job) => job.state === "running" || job.state === "waiting");
  const job = running[0];
  if (!job) return null;
  const share = job.total ? (100 * job.done) / job.total : undefined;
  const words = `${job.title}: ${job.done}${job.total ? ` of ${job.total}` : ""} ${job.unit}`;
  return (
    <Box role="status" sx={{ display: "flex", alignItems: "center", gap: 1, minWidth: 180 }}>
      <Box sx={{ flex: 1 }}>
        <Typography variant="caption">{words}</Typography>
        <LinearProgress aria-label={words} variant={share === undefined ? "indeterminate" : "determinate"} value={share ?? 0} />
      </Box>
      <Button onClick={() => cancel.mutate(job.id)}>Cancel</Button>
    </Box>
  );
}

function AccountMenu() {
  const me = useMe().data;
  const leave = useAccount();
  const go = useNavigate();
  const [anchor, open, close] = useMenu();
  if (!me?.signed_in) return <Button component={To} to="/sign-in">Sign in</Button>;
  return (
    <>
      <Button color="inherit" onClick={open} aria-haspopup="menu" sx={{ whiteSpace: "nowrap" }} endIcon={<Glyph path="M4 6L8 10L12 6" />}>
        {me.name}
      </Button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={close}>
        <MenuItem component={To} to="/my-rigs" onClick={close}>
          My rigs
        </MenuItem>
        <MenuItem component={To} to="/shelves" onClick={close}>
          Shelves
        </MenuItem>
        <MenuItem component={To} to="/games" onClick={close}>
          Games
        </MenuItem>
        <MenuItem component={To} to="/account" onClick={close}>
          Account and password
        </MenuItem>
        <MenuItem
          onClick={() => {
            close();
            leave.mutate({ path: "auth/session", method: "DELETE" }, { onSuccess: () => void go("/sign-in") });
          }}
        >
          Sign out
        </MenuItem>
      </Menu>
    </>
  );
}

export function TopBar({ slug = "" }: { slug?: string }) {
  const me = useMe().data;
  return (
    <Box component="header" sx={{ display: "flex", alignItems: "center", gap: { xs: 1, md: 2 }, px: 2, height: 52, flex: "none", borderBottom: 1, borderColor: "divider", bgcolor: "background.paper" }}>
      <WordMark />
      {me?.signed_in && <PackSwitcher slug={slug} />}
      <Box sx={{ flex: 1 }} />
      {me?.signed_in && <Jobs />}
      {me?.signed_in && <Search slug={slug} />}
      <AccountMenu />
    </Box>
  );
}

export function Page({ children, slug }: { children: ReactNode; slug?: string }) {
  return (
    <Box sx={{ height: "100dvh", display: "flex", flexDirection: "column" }}>
      <TopBar slug={slug} />
      <Box component="main" sx={{ flex: 1, overflow: "auto", minHeight: 0 }}>
        {children}
      </Box>
      <KeyHelp />
    </Box>
  );
}

function KeyHelp() {
  const [open, setOpen] = useState(false);
  useKeys({ "?": () => setOpen((before) => !before), ...(open ? { Escape: () => setOpen(false) } : {}) });
  if (!open) return null;
  return (
    <Box role="complementary" aria-label="Keys" sx={{ position: "fixed", right: 16, bottom: 60, p: 2, border: 1, borderColor: "divider", borderRadius: 1, bgcolor: "background.paper", zIndex: 10 }}>
      <Typography variant="h3" gutterBottom>
        Keys
      </Typography>
      {KEY_HELP.map(([key, what]) => (
        <Box key={key} sx={{ display: "flex", gap: 2 }}>
          <Box component="kbd" sx={{ width: 60, fontWeight: 700 }}>
            {key}
          </Box>
          {what}
        </Box>
      ))}
      <Button onClick={() => setOpen(false)} sx={{ mt: 1 }}>
        Close
      </Button>
    </Box>
  );
}

function Station({ to, name, figure, arrow }: { to: string; name: string; figure: string; arrow: boolean }) {
  return (
    <Box
      component={NavLink}
      to={to}
      sx={{
        display: "flex", alignItems: "baseline", gap: 1, px: 2, py: 0.9, color: "text.primary", textDecoration: "none", position: "relative", whiteSpace: "nowrap",
        borderBottom: "3px solid transparent", "&.active": { borderColor: "primary.main" }, "&:hover": { bgcolor: "selected" },
      }}
    >
      {arrow && (
        <Box component="span" aria-hidden="true" sx={{ color: "secondary.light", mr: 0.5 }}>
          ◆
        </Box>
      )}
      <Box component="span" sx={{ fontWeight: 700 }}>
        {name}
      </Box>
      <Typography component="span" variant="body2" color="textSecondary">
        {figure}
      </Typography>
    </Box>
  );
}

/** The figure of the Check station. */
function verdict(findings: Findings | undefined): string {
  if (!findings) return "";
  if (findings.stops) return count(findings.stops, "stop");
  return findings.cautions ? count(findings.cautions, "caution") : "nothing in the way";
}

/** Everything inside a pack: its stations, and the screen of the one that is open. */
export function PackFrame() {
  const { pack = "" } = useParams();
  const me = useMe().data;
  const others = useLive(pack, me?.name ?? "");
  const draft = useDraft(pack);
  const road = useRoad(pack).data;
  const findings = useFindings(pack).data;
  if (draft.error) {
    return (
      <Page slug={pack}>
        <Box sx={{ p: 3, maxWidth: 640 }}>
          <Problem error={draft.error} again={() => void draft.refetch()} />
          <Link component={To} to="/">
            To all packs
          </Link>
        </Box>
      </Page>
    );
  }
  const entries = draft.data?.totals.entries;
  const changes = draft.data?.since?.count ?? 0;
  const since = !draft.data?.release ? "no release yet" : changes ? `${count(changes, "change")} since ${draft.data.release}` : `as ${draft.data.release}`;
  const curator = draft.data && draft.data.role !== "member";
  return (
    <Box sx={{ height: "100dvh", display: "flex", flexDirection: "column" }}>
      <TopBar slug={pack} />
      <Box component="nav" aria-label="Stations of the pack" sx={{ display: "flex", alignItems: "stretch", px: { xs: 0, md: 1 }, flex: "none", borderBottom: 1, borderColor: "divider", overflowX: "auto", bgcolor: "background.paper" }}>
        <Station to={`/packs/${pack}/assemble`} name="Assemble" figure={entries === undefined ? "" : count(entries, "entry", "entries")} arrow={false} />
        <Station to={`/packs/${pack}/check`} name="Check" figure={verdict(findings)} arrow />
        {curator && <Station to={`/packs/${pack}/publish`} name="Publish" figure={since} arrow />}
        <Station to={`/packs/${pack}/roll-out`} name="Roll out" figure={road ? summary(road) : ""} arrow />
      </Box>
      <Box component="main" sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
        {draft.data ? <Outlet context={{ draft: draft.data, others }} /> : <Waiting what="Fetching the draft" />}
      </Box>
      <KeyHelp />
    </Box>
  );
}
