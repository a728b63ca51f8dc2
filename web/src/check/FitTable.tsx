// The fit table: game version by loader, how many entries have a build there; a cell opens what moving there would do.
import Box from "@mui/material/Box";
import Typography from "@mui/material/Typography";
import { useSearchParams } from "react-router";
import { useFitTable } from "../api/queries";
import type { Cell, Table } from "../api/schema";
import type { Desk } from "../assemble/desk";
import { Mono, Problem, Waiting } from "../parts/common";
import { count } from "../parts/words";

export function FitTable({ desk }: { desk: Desk }) {
  const table = useFitTable(desk.draft.slug);
  if (table.error) return <Problem error={table.error} again={() => void table.refetch()} />;
  if (!table.data) return <Waiting what="Comparing all game versions" />;
  return <Grid table={table.data} desk={desk} />;
}

function headline(table: Table): string {
  if (!table.newest_whole) return "No other ground has a build of every entry";
  const [version, loader] = table.newest_whole.split("/");
  const named = loader ? ` with ${table.loaders[loader] ?? loader}` : "";
  const channel = table.channels[version ?? ""] ?? "stable";
  const stage = channel === "stable" ? "" : `, a ${channel} version`;
  const here = table.cells.some((cell) => cell.here && cell.game_version === version && (cell.loader ?? "") === loader);
  return here ? "The draft is on the newest ground that has everything" : `Everything has a build for ${version}${named}${stage}`;
}

function Grid({ table, desk }: { table: Table; desk: Desk }) {
  const versions = [...new Set(table.cells.map((cell) => cell.game_version))];
  const loaders = [...new Set(table.cells.map((cell) => cell.loader ?? ""))];
  return (
    <Box sx={{ px: 3, py: 2, maxWidth: 1100 }}>
      <Typography variant="h1" gutterBottom>{headline(table)}</Typography>
      <Typography color="textSecondary" gutterBottom>How many of the {table.entries} entries have a build for each ground. Choose one to see what moving there would do.</Typography>
      <Box component="table" sx={{ borderCollapse: "collapse", mt: 1.5, width: "100%", "& td, & th": { border: 1, borderColor: "divider", p: 0, textAlign: "left" }, "& td": { height: "1px", bgcolor: "background.paper", verticalAlign: "top" } }}>
        <thead>
          <tr>
            <Box component="th" scope="col" sx={{ "&&": { p: 1 } }}>Game version</Box>
            {loaders.map((loader) => <Box component="th" scope="col" key={loader} sx={{ "&&": { p: 1 } }}>{table.loaders[loader] ?? (loader || "Any")}</Box>)}
          </tr>
        </thead>
        <tbody>
          {versions.map((version) => (
            <tr key={version}>
              <Box component="th" scope="row" sx={{ "&&": { p: 1, fontWeight: 400, whiteSpace: "nowrap" } }}>
                <Mono strong>{version}</Mono>
                {table.channels[version] !== "stable" && <Typography variant="caption" color="textSecondary" component="div">{table.channels[version]}</Typography>}
              </Box>
              {loaders.map((loader) => {
                const cell = table.cells.find((one) => one.game_version === version && (one.loader ?? "") === loader);
                return <td key={loader}>{cell && <Ground cell={cell} table={table} desk={desk} />}</td>;
              })}
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}

function missing(cell: Cell, table: Table): string {
  if (cell.missing.length === 0) return cell.changing.length ? count(cell.changing.length, "entry changes its build", "entries change their builds") : "every build stays";
  const named = cell.missing.slice(0, 3).map((mod) => table.names[mod] ?? mod).join(", ");
  return `without ${named}${cell.missing.length > 3 ? ` and ${cell.missing.length - 3} more` : ""}`;
}

function Ground({ cell, table, desk }: { cell: Cell; table: Table; desk: Desk }) {
  const [params] = useSearchParams();
  const key = `${cell.game_version}/${cell.loader ?? ""}`;
  const share = table.entries ? cell.fitting.length / table.entries : 0;
  if (!cell.open) return <Typography variant="body2" color="textSecondary" sx={{ p: 1 }}>no loader for this version</Typography>;
  const whole = cell.missing.length === 0;
  return (
    <Box
      component="button"
      data-ground={key}
      aria-pressed={params.get("sel") === key}
      onClick={() => desk.open({ sheet: "move", sel: key })}
      sx={{ all: "unset", boxSizing: "border-box", cursor: "pointer", display: "block", width: "100%", height: "100%", p: 1, bgcolor: params.get("sel") === key ? "selected" : "background.paper", outline: cell.here ? "2px solid" : undefined, outlineOffset: -2, "&:hover": { bgcolor: "selected" }, "&:focus-visible": { outline: "3px solid" } }}
    >
      <Box sx={{ display: "flex", columnGap: 1, alignItems: "baseline", flexWrap: "wrap", whiteSpace: "nowrap" }}>
        <Mono strong>{cell.fitting.length} of {table.entries}</Mono>
        {cell.here && <Typography component="span" variant="caption" sx={{ fontWeight: 700 }}>the draft is here</Typography>}
      </Box>
      <Box aria-hidden sx={{ height: 10, my: 0.5, border: 1, borderColor: "divider", display: "flex" }}>
        <Box sx={{ width: `${share * 100}%`, bgcolor: whole ? "success.main" : "secondary.light" }} />
      </Box>
      <Typography variant="caption" color="textSecondary" component="div">{missing(cell, table)}</Typography>
    </Box>
  );
}
