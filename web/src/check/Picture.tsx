// Who needs whom, drawn in layers: chosen entries are squared, those that came along rounded; beside it the same as a list.
import "@xyflow/react/dist/style.css";
import dagre from "@dagrejs/dagre";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import TextField from "@mui/material/TextField";
import Typography from "@mui/material/Typography";
import { Background, Controls, Handle, Position, ReactFlow, type Edge as FlowEdge, type Node as FlowNode, type NodeProps } from "@xyflow/react";
import { useMemo, useState } from "react";
import { usePicture } from "../api/queries";
import type { Node, Picture as Drawing } from "../api/schema";
import type { Desk } from "../assemble/desk";
import { Empty, Mono, Problem, Waiting } from "../parts/common";
import { count } from "../parts/words";

const WIDTH = 168;
const HEIGHT = 40;

type Shown = FlowNode<{ node: Node; faint: boolean; current: boolean }>;

function Mod({ data }: NodeProps<Shown>) {
  const { node, faint, current } = data;
  return (
    <Box sx={{ width: WIDTH, height: HEIGHT, px: 1.25, display: "flex", flexDirection: "column", justifyContent: "center", bgcolor: current ? "selected" : "background.paper", border: node.chosen ? 2 : 1, borderStyle: node.there && node.enabled ? "solid" : "dashed", borderColor: node.there ? "text.primary" : "error.main", borderRadius: node.chosen ? 0 : "20px", opacity: faint ? 0.25 : 1, lineHeight: 1.15 }}>
      <Handle type="target" position={Position.Left} isConnectable={false} style={{ visibility: "hidden" }} />
      <Typography noWrap variant="body2" sx={{ fontWeight: node.chosen ? 700 : 400 }}>{node.name}</Typography>
      <Typography noWrap variant="caption" color="textSecondary">{node.there ? (node.enabled ? node.version ?? "any build" : "turned off") : "not in the draft"}</Typography>
      <Handle type="source" position={Position.Right} isConnectable={false} style={{ visibility: "hidden" }} />
    </Box>
  );
}

const NODE_TYPES = { mod: Mod };
const LINE = { needs: { strokeDasharray: undefined }, patches: { strokeDasharray: "6 4" }, clashes: { strokeDasharray: "2 3" } } as const;

/** Positions in layers, what is needed right of what needs it; entries that nothing links stand in rows beneath. */
function laidOut(drawing: Drawing): Map<string, { x: number; y: number }> {
  const linked = new Set(drawing.edges.flatMap((edge) => [edge.source, edge.target]));
  const graph = new dagre.graphlib.Graph().setGraph({ rankdir: "LR", nodesep: 14, ranksep: 64 }).setDefaultEdgeLabel(() => ({}));
  for (const node of drawing.nodes) if (linked.has(node.mod)) graph.setNode(node.mod, { width: WIDTH, height: HEIGHT });
  for (const edge of drawing.edges) graph.setEdge(edge.source, edge.target);
  if (linked.size) dagre.layout(graph);
  const places = new Map<string, { x: number; y: number }>();
  let bottom = 0;
  for (const mod of linked) {
    const at = graph.node(mod) as { x: number; y: number } | undefined;
    if (!at) continue;
    places.set(mod, { x: at.x - WIDTH / 2, y: at.y - HEIGHT / 2 });
    bottom = Math.max(bottom, at.y + HEIGHT * 1.5);
  }
  const alone = drawing.nodes.filter((node) => !linked.has(node.mod));
  const perRow = Math.max(5, Math.ceil(Math.sqrt(alone.length)));
  alone.forEach((node, index) => places.set(node.mod, { x: (index % perRow) * (WIDTH + 18), y: bottom + Math.floor(index / perRow) * (HEIGHT + 18) }));
  return places;
}

export default function Picture({ desk }: { desk: Desk }) {
  const picture = usePicture(desk.draft.slug);
  if (picture.error) return <Problem error={picture.error} again={() => void picture.refetch()} />;
  if (!picture.data) return <Waiting what="Drawing who needs whom" />;
  if (picture.data.nodes.length === 0) return <Empty title="Nothing to draw yet"><Typography>Add mods at Assemble; what they need shows here.</Typography></Empty>;
  return <Drawn drawing={picture.data} />;
}

function Drawn({ drawing }: { drawing: Drawing }) {
  const [current, setCurrent] = useState("");
  const [filter, setFilter] = useState("");
  const places = useMemo(() => laidOut(drawing), [drawing]);
  const needs = drawing.edges.filter((edge) => edge.source === current);
  const callers = drawing.edges.filter((edge) => edge.target === current);
  const near = new Set([current, ...needs.map((edge) => edge.target), ...callers.map((edge) => edge.source)]);
  const nodes: Shown[] = drawing.nodes.map((node) => ({ id: node.mod, type: "mod", position: places.get(node.mod) ?? { x: 0, y: 0 }, data: { node, faint: current !== "" && !near.has(node.mod), current: node.mod === current }, draggable: false, focusable: false }));
  const edges: FlowEdge[] = drawing.edges.map((edge) => ({
    id: `${edge.source} ${edge.kind} ${edge.target}`, source: edge.source, target: edge.target, focusable: false,
    style: { stroke: edge.met ? "var(--mui-palette-text-secondary)" : "var(--mui-palette-error-main)", strokeWidth: edge.met ? 1 : 2, strokeDasharray: LINE[edge.kind as keyof typeof LINE]?.strokeDasharray, opacity: current && edge.source !== current && edge.target !== current ? 0.12 : 1 },
  }));
  const name = (mod: string) => drawing.nodes.find((node) => node.mod === mod)?.name ?? mod;
  const shown = drawing.nodes.filter((node) => node.name.toLowerCase().includes(filter.toLowerCase())).sort((one, two) => one.name.localeCompare(two.name));
  return (
    <Box sx={{ display: "flex", height: "100%", minHeight: 420, flexDirection: { xs: "column", md: "row" } }}>
      <Box sx={{ flex: 1, minHeight: 300, position: "relative", "& .react-flow__controls-button": { bgcolor: "background.paper", color: "text.primary", borderColor: "divider", fill: "currentColor", "&:hover": { bgcolor: "selected" } }, "& .react-flow__attribution": { bgcolor: "transparent", "& a": { color: "text.secondary" } } }}>
        <ReactFlow nodes={nodes} edges={edges} nodeTypes={NODE_TYPES} fitView minZoom={0.1} nodesConnectable={false} onNodeClick={(_event, node) => setCurrent(node.id === current ? "" : node.id)} onPaneClick={() => setCurrent("")} proOptions={{ hideAttribution: false }}>
          <Background gap={24} />
          <Controls showInteractive={false} />
        </ReactFlow>
      </Box>
      <Box sx={{ width: { md: 320 }, borderLeft: 1, borderColor: "divider", p: 2, overflow: "auto", bgcolor: "background.paper" }}>
        <Typography variant="h2">{current ? name(current) : count(drawing.nodes.length, "mod")}</Typography>
        {current ? (
          <>
            <Links title="Needs" mods={needs.filter((edge) => edge.kind === "needs").map((edge) => edge.target)} none="Needs nothing." name={name} onOpen={setCurrent} />
            <Links title="Patches" mods={needs.filter((edge) => edge.kind === "patches").map((edge) => edge.target)} none="" name={name} onOpen={setCurrent} />
            <Links title="Clashes with" mods={[...needs, ...callers].filter((edge) => edge.kind === "clashes").map((edge) => (edge.source === current ? edge.target : edge.source))} none="" name={name} onOpen={setCurrent} />
            <Links title="Needed by" mods={callers.filter((edge) => edge.kind === "needs").map((edge) => edge.source)} none="Nothing needs it." name={name} onOpen={setCurrent} />
            <Button onClick={() => setCurrent("")} sx={{ mt: 1 }}>Show all</Button>
          </>
        ) : (
          <>
            <Typography variant="body2" color="textSecondary" gutterBottom>Squared: chosen. Rounded: came along. Red: missing or in the way. What is needed stands to the right.</Typography>
            <TextField fullWidth placeholder="Find a mod" value={filter} onChange={(event) => setFilter(event.target.value)} slotProps={{ htmlInput: { "aria-label": "Find a mod in the picture", "data-search": true } }} />
            <Box component="ul" aria-label="Mods of the picture" sx={{ listStyle: "none", p: 0, m: 0, mt: 1 }}>
              {shown.map((node) => (
                <li key={node.mod}>
                  <Button color="inherit" onClick={() => setCurrent(node.mod)} sx={{ justifyContent: "start", textAlign: "left" }}>
                    {node.name}&nbsp;<Mono>{node.version}</Mono>
                  </Button>
                </li>
              ))}
            </Box>
          </>
        )}
      </Box>
    </Box>
  );
}

function Links({ title, mods, none, name, onOpen }: { title: string; mods: string[]; none: string; name: (mod: string) => string; onOpen: (mod: string) => void }) {
  const once = [...new Set(mods)];
  if (once.length === 0) return none ? <Typography variant="body2" color="textSecondary" sx={{ mt: 1 }}>{none}</Typography> : null;
  return (
    <Box sx={{ mt: 1 }}>
      <Typography variant="h3">{title}</Typography>
      {once.map((mod) => <Button key={mod} color="inherit" onClick={() => onOpen(mod)} sx={{ display: "block" }}>{name(mod)}</Button>)}
    </Box>
  );
}
