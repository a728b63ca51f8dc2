// The catalogue in the place of the waybill: narrowing by facets, and for every result whether it suits the draft.
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import Checkbox from "@mui/material/Checkbox";
import FormControlLabel from "@mui/material/FormControlLabel";
import Link from "@mui/material/Link";
import MenuItem from "@mui/material/MenuItem";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { useEffect, useRef, useState } from "react";
import { Link as To } from "react-router";
import { useMods } from "../api/queries";
import type { Facet, ModList, ModRow } from "../api/schema";
import { useAddress } from "../parts/address";
import { Mono, Problem, Waiting } from "../parts/common";
import { Emblem } from "../parts/Emblem";
import { useKeys } from "../parts/keys";
import { GradeMark } from "../parts/marks";
import { count, REACH, sides } from "../parts/words";
import type { Desk } from "./desk";

export const FACETS = ["kind", "category", "loader", "version", "side", "reach", "licence"] as const;
const FIT_GRADE = { fits: "fine", "already-in": "fine", "older-build": "note", clashes: "stop", "other-loader": "stop", "no-build": "stop" } as const;
const SORTS = [
  ["", "best match"],
  ["installs", "most installed"],
  ["updated", "recently updated"],
  ["new", "newest"],
  ["name", "by name"],
] as const;
const SHOWN = 6;
const MOST_COMPARED = 4;

/** What of the address is the look through the catalogue. */
function useLook(desk: Desk) {
  const [params, change] = useAddress();
  const narrowed = Object.fromEntries(FACETS.map((facet) => [facet, params.getAll(facet)]));
  return {
    asked: { pack: desk.draft.slug, game: desk.draft.game, text: params.get("q") ?? "", narrowed, fits: params.get("fits") === "1", sort: params.get("order") ?? "", page: Number(params.get("page") ?? "1") || 1 },
    compared: (params.get("compare") ?? "").split(",").filter(Boolean),
    current: params.get("sel") ?? "",
    set: (key: string, value: string) => change((next) => (next.delete("page"), value ? next.set(key, value) : next.delete(key))),
    page: (number: number) => change((next) => next.set("page", String(number))),
    toggle: (facet: string, value: string) =>
      change((next) => {
        const left = next.getAll(facet).filter((one) => one !== value);
        const there = left.length < next.getAll(facet).length;
        next.delete(facet);
        for (const one of there ? left : [...left, value]) next.append(facet, one);
        next.delete("page");
      }),
    compare: (slug: string) =>
      change((next) => {
        const before = (next.get("compare") ?? "").split(",").filter(Boolean);
        const after = before.includes(slug) ? before.filter((one) => one !== slug) : [...before, slug].slice(-MOST_COMPARED);
        if (after.length) next.set("compare", after.join(","));
        else next.delete("compare");
      }),
    widen: () => change((next) => [...FACETS, "fits", "page"].forEach((key) => next.delete(key))),
  };
}

type Look = ReturnType<typeof useLook>;

export function Catalogue({ desk }: { desk: Desk }) {
  const look = useLook(desk);
  const { asked, compared, current, set } = look;
  const [typed, setTyped] = useState(asked.text);
  const field = useRef<HTMLInputElement>(null);
  const mods = useMods(asked);
  // On a phone the facets and the results take turns.
  const [narrowing, setNarrowing] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => typed !== asked.text && set("q", typed), 150);
    return () => clearTimeout(timer);
  });
  useEffect(() => field.current?.focus(), []);
  const rows = mods.data?.mods ?? [];
  const step = (by: number) => {
    const next = rows[Math.min(Math.max(rows.findIndex((row) => row.slug === current) + by, 0), rows.length - 1)];
    if (!next) return;
    desk.open({ sel: next.slug, sheet: "mod" });
    document.querySelector(`[data-mod="${CSS.escape(next.slug)}"]`)?.scrollIntoView({ block: "nearest" });
  };
  const add = () => {
    const button = document.querySelector<HTMLButtonElement>("[data-preview=add] button[data-add]");
    if (button) button.click();
    else if (current) desk.open({ sheet: "mod", sel: current });
  };
  useKeys({ j: () => step(1), k: () => step(-1), c: () => current && look.compare(current), a: add });
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: "flex", flexDirection: "column" }}>
      <Box sx={{ display: "flex", gap: 1.5, px: 2, py: 1, alignItems: "center", flexWrap: "wrap" }}>
        <Button component={To} to="?" variant="outlined">Back to the waybill</Button>
        <TextField
          inputRef={field}
          placeholder={`Search the catalogue of ${desk.draft.game_name}`}
          value={typed}
          onChange={(event) => setTyped(event.target.value)}
          onKeyDown={(event) => {
            if (event.key !== "Enter" && event.key !== "ArrowDown") return;
            event.preventDefault();
            field.current?.blur();
            if (typed === asked.text) step(1);
            else set("q", typed);
          }}
          sx={{ flex: 1, minWidth: 200 }}
          slotProps={{ htmlInput: { "aria-label": "Search the catalogue", "data-search": true } }}
        />
        <TextField select value={asked.sort} onChange={(event) => set("order", event.target.value)} sx={{ width: 170 }} slotProps={{ htmlInput: { "aria-label": "Order of the results" }, select: { displayEmpty: true } }}>
          {SORTS.map(([key, words]) => (
            <MenuItem key={key} value={key}>{key === "" && !asked.text ? "most installed first" : words}</MenuItem>
          ))}
        </TextField>
        <Button aria-expanded={narrowing} onClick={() => setNarrowing(!narrowing)} sx={{ display: { md: "none" } }}>{narrowing ? "Show the results" : "Narrow"}</Button>
        {desk.mayEdit && <Button onClick={() => desk.open({ sheet: "paste", sel: null })}>Paste a list</Button>}
        {desk.mayEdit && <Button onClick={() => desk.open({ sheet: "bring", sel: null })}>Bring a file</Button>}
      </Box>
      <Problem error={mods.error} again={() => void mods.refetch()} />
      {!mods.data && !mods.error && <Waiting what="Looking through the catalogue" />}
      {mods.data && (
        <Box sx={{ flex: 1, minHeight: 0, display: "flex", borderTop: 2, borderColor: "text.primary" }}>
          <Box component="nav" aria-label="Narrow the results" sx={{ width: { xs: "100%", md: 210 }, flex: "none", overflowY: "auto", px: 2, py: 1.25, borderRight: { md: 1 }, borderColor: { md: "divider" }, display: { xs: narrowing ? "block" : "none", md: "block" } }}>
            <Facets found={mods.data} look={look} />
          </Box>
          <Box sx={{ flex: 1, minWidth: 0, overflowY: "auto", display: { xs: narrowing ? "none" : "block", md: "block" } }} tabIndex={0} role="region" aria-label="Results">
            <Results found={mods.data} desk={desk} look={look} onCompare={look.compare} />
          </Box>
        </Box>
      )}
      {compared.length > 0 && (
        <Box role="region" aria-label="To compare" sx={{ display: "flex", gap: 1.5, px: 2, py: 0.75, borderTop: 1, borderColor: "divider", alignItems: "center", flexWrap: "wrap" }}>
          <Typography variant="body2">To compare: {compared.join(", ")}</Typography>
          <Button variant="contained" disabled={compared.length < 2} component={To} to={`?look=compare&beside=${compared.join(",")}`}>Compare {compared.length}</Button>
          <Button onClick={() => set("compare", "")}>None</Button>
        </Box>
      )}
    </Box>
  );
}

function Facets({ found, look }: { found: ModList; look: Look }) {
  const some = look.asked.fits || found.facets.some((facet) => facet.values.some((value) => value.chosen));
  return (
    <>
      <FormControlLabel
        control={<Checkbox size="small" sx={{ py: 0.25 }} checked={look.asked.fits} onChange={(event) => look.set("fits", event.target.checked ? "1" : "")} slotProps={{ input: { "aria-label": "Only what fits this draft" } }} />}
        label={<Typography variant="body2">Fits this draft <Mono>{found.fitting}</Mono></Typography>}
      />
      {some && <Button onClick={look.widen} sx={{ display: "block" }}>Show everything again</Button>}
      {found.facets.map((facet) => <FacetGroup key={facet.facet} facet={facet} look={look} />)}
    </>
  );
}

function FacetGroup({ facet, look }: { facet: Facet; look: Look }) {
  const [all, setAll] = useState(false);
  if (facet.values.length < 2 && !facet.values.some((value) => value.chosen)) return null;
  const shown = all ? facet.values : facet.values.filter((value, index) => index < SHOWN || value.chosen);
  return (
    <Box component="fieldset" sx={{ border: 0, p: 0, m: 0, mt: 1.5, minWidth: 0 }}>
      <Typography component="legend" variant="h3">{facet.label}</Typography>
      {shown.map((value) => (
        <Box key={value.value} component="label" sx={{ display: "flex", gap: 0.75, alignItems: "center", cursor: "pointer", fontSize: "0.88rem" }}>
          <Checkbox size="small" sx={{ p: 0.25 }} checked={value.chosen} onChange={() => look.toggle(facet.facet, value.value)} slotProps={{ input: { "aria-label": `${facet.label}: ${value.label}` } }} />
          <Box component="span" sx={{ flex: 1, minWidth: 0, overflow: "hidden", textOverflow: "ellipsis", whiteSpace: "nowrap" }} title={value.label}>{value.label}</Box>
          <Box component="span" sx={{ color: "text.secondary" }}><Mono>{value.count}</Mono></Box>
        </Box>
      ))}
      {facet.values.length > shown.length && <Button onClick={() => setAll(true)}>{facet.values.length - shown.length} more</Button>}
    </Box>
  );
}

function Results({ found, desk, look, onCompare }: { found: ModList; desk: Desk; look: Look; onCompare: (slug: string) => void }) {
  const asked = look.asked.text !== "" || look.asked.fits || FACETS.some((facet) => look.asked.narrowed[facet]?.length);
  const pages = Math.max(Math.ceil(found.total / found.per_page), 1);
  const order = SORTS.find(([key]) => key === look.asked.sort)?.[1] ?? "";
  const said = look.asked.text && !look.asked.sort ? "best match first" : look.asked.sort ? order : "most installed first";
  return (
    <>
      <Typography variant="body2" color="textSecondary" role="status" sx={{ px: 2, pt: 1 }}>
        {found.total === 0 ? (asked ? "Nothing in the catalogue matches. Try fewer letters, or show everything again." : `The catalogue has no mods for ${desk.draft.game_name} yet.`) : `${count(found.total, "mod")}, ${said}`}
        {found.mended && `. Nothing is called “${look.asked.text}”; this is what matches “${found.mended}”`}
      </Typography>
      <Box component="ul" aria-label="Mods" sx={{ listStyle: "none", m: 0, p: 0 }}>
        {found.mods.map((mod) => <Result key={mod.slug} mod={mod} desk={desk} current={look.current === mod.slug} compared={look.compared.includes(mod.slug)} onCompare={() => onCompare(mod.slug)} />)}
      </Box>
      {pages > 1 && (
        <Box sx={{ display: "flex", gap: 1.5, px: 2, py: 1.25, alignItems: "center" }}>
          <Button variant="outlined" disabled={found.page <= 1} onClick={() => look.page(found.page - 1)}>Earlier</Button>
          <Typography variant="body2">Page <Mono>{found.page}</Mono> of <Mono>{pages}</Mono></Typography>
          <Button variant="outlined" disabled={found.page >= pages} onClick={() => look.page(found.page + 1)}>Further</Button>
        </Box>
      )}
    </>
  );
}

function Result({ mod, desk, current, compared, onCompare }: { mod: ModRow; desk: Desk; current: boolean; compared: boolean; onCompare: () => void }) {
  const entry = desk.draft.entries.find((one) => one.mod === mod.slug);
  // What is being added counts as in the draft before the server has said so.
  const fit = entry && mod.fit?.answer !== "already-in" ? { answer: "already-in", version: "", reason: "is in the draft" } : mod.fit;
  const open = () => desk.open({ sheet: "mod", sel: mod.slug });
  return (
    <Box component="li" data-mod={mod.slug} sx={{ display: "flex", gap: 1.25, px: 2, py: 0.75, borderBottom: 1, borderColor: "divider", bgcolor: current ? "selected" : "background.paper", alignItems: "center" }}>
      <Checkbox size="small" sx={{ p: 0.25 }} checked={compared} onChange={onCompare} slotProps={{ input: { "aria-label": `Compare ${mod.name}` } }} />
      <Emblem slug={mod.slug} large={26} />
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Box sx={{ display: "flex", gap: 1, alignItems: "baseline", flexWrap: "wrap" }}>
          <Link component="button" color="textPrimary" onClick={open} sx={{ fontWeight: 600, textAlign: "left" }}>{mod.name}</Link>
          <Typography variant="caption" color="textSecondary">
            {[mod.categories.join(", "), sides(mod.sides), REACH[mod.reach] ?? mod.reach, mod.licence ?? "no licence stated"].join(" · ")}
            {mod.shelf && ` · ${mod.shelf}`}
          </Typography>
        </Box>
        <Typography variant="body2" color="textSecondary" noWrap title={mod.summary}>{mod.summary}</Typography>
        {fit && (
          <Box sx={{ display: "flex", gap: 0.75, alignItems: "center" }} data-fit={fit.answer}>
            <GradeMark grade={FIT_GRADE[fit.answer as keyof typeof FIT_GRADE] ?? "note"} label={fit.answer.replace("-", " ")} />
            <Typography variant="caption">{fit.reason}</Typography>
          </Box>
        )}
      </Box>
      {desk.mayEdit && fit?.answer !== "already-in" && (
        <Button variant="outlined" onClick={open} aria-label={`Add ${mod.name}`}>Add</Button>
      )}
    </Box>
  );
}
