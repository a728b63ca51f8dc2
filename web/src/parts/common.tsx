// Small parts that every screen uses.
import Alert from "@mui/material/Alert";
import Box from "@mui/material/Box";
import Button from "@mui/material/Button";
import IconButton from "@mui/material/IconButton";
import LinearProgress from "@mui/material/LinearProgress";
import Paper from "@mui/material/Paper";
import Tooltip from "@mui/material/Tooltip";
import Typography from "@mui/material/Typography";
import { useEffect, useRef, useState, type ReactNode } from "react";
import Markdown from "react-markdown";
import { sentence } from "../api/client";
import { MONO } from "../theme";
import { ago, exactly } from "./words";

export function Problem({ error, again }: { error: unknown; again?: () => void }) {
  if (!error) return null;
  return (
    <Alert severity="error" role="alert" sx={{ my: 1, alignItems: "center" }} action={again && <Button color="inherit" onClick={again}>Try again</Button>}>
      {sentence(error)}
    </Alert>
  );
}

/** What is being waited for, in words; nothing for the first half second. */
export function Waiting({ what }: { what: string }) {
  const [late, setLate] = useState(false);
  useEffect(() => {
    const timer = setTimeout(() => setLate(true), 500);
    return () => clearTimeout(timer);
  }, []);
  if (!late) return <Box sx={{ minHeight: 60 }} />;
  return (
    <Box role="status" sx={{ p: 3, maxWidth: 420 }}>
      <Typography gutterBottom>{what}</Typography>
      <LinearProgress aria-label={what} />
    </Box>
  );
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
  return (
    <Box sx={{ p: 4, maxWidth: 560 }}>
      <Typography variant="h2" gutterBottom>
        {title}
      </Typography>
      {children}
    </Box>
  );
}

export function Time({ at }: { at: string }) {
  return (
    <time dateTime={at} title={exactly(at)}>
      {ago(at)}
    </time>
  );
}

export function Mono({ children, strong = false }: { children: ReactNode; strong?: boolean }) {
  return (
    <Box component="span" sx={{ fontFamily: MONO, fontSize: "0.92em", fontWeight: strong ? 600 : 400 }}>
      {children}
    </Box>
  );
}

export function Copy({ text, what }: { text: string; what: string }) {
  const [done, setDone] = useState(false);
  const copy = async () => {
    await navigator.clipboard.writeText(text);
    setDone(true);
    setTimeout(() => setDone(false), 2000);
  };
  return (
    <Button variant="outlined" onClick={() => void copy()} aria-label={`Copy ${what}`} sx={{ flex: "none", minWidth: 76 }}>
      {done ? "Copied" : "Copy"}
    </Button>
  );
}

/** A code, command or checksum with its copy button. */
export function Copyable({ text, what, large = false }: { text: string; what: string; large?: boolean }) {
  return (
    <Box sx={{ display: "flex", gap: 1, alignItems: "center" }}>
      <Box
        component="code"
        data-copyable={what}
        sx={{ fontFamily: MONO, fontSize: large ? "1.05rem" : "0.88rem", overflowWrap: "anywhere", flex: 1, px: 1.25, py: large ? 1.25 : 0.6, border: 1, borderColor: "divider", borderRadius: 1, bgcolor: "background.default" }}
      >
        {text}
      </Box>
      <Copy text={text} what={what} />
    </Box>
  );
}

interface SheetProps {
  title: ReactNode;
  onClose: () => void;
  children: ReactNode;
  foot?: ReactNode;
  wide: boolean;
  onWide: () => void;
}

/** The side sheet: part of the page, not a pop-up; Esc closes it. */
export function Sheet({ title, onClose, children, foot, wide, onWide }: SheetProps) {
  const paper = useRef<HTMLDivElement>(null);
  return (
    <Paper
      ref={paper}
      component="aside"
      aria-label={typeof title === "string" ? title : "Details"}
      square
      onKeyDown={(event) => event.key === "Escape" && onClose()}
      sx={{ width: { xs: "100%", md: wide ? 680 : 430 }, flex: "none", display: "flex", flexDirection: "column", minHeight: 0, borderWidth: "0 0 0 1px", boxShadow: "-6px 0 18px rgb(0 0 0 / 8%)" }}
    >
      <Box sx={{ display: "flex", alignItems: "center", gap: 1, pl: 2, pr: 1, py: 1, borderBottom: 1, borderColor: "divider" }}>
        <Box sx={{ flex: 1, minWidth: 0 }}>{typeof title === "string" ? <Typography variant="h2">{title}</Typography> : title}</Box>
        <Tooltip title={wide ? "Narrower" : "Wider"}>
          <IconButton size="small" onClick={onWide} aria-label={wide ? "Make the sheet narrower" : "Make the sheet wider"} sx={{ display: { xs: "none", md: "inline-flex" } }}>
            <Glyph path={wide ? "M4 8H12M9 5L12 8L9 11" : "M12 8H4M7 5L4 8L7 11"} />
          </IconButton>
        </Tooltip>
        <Tooltip title="Close (Esc)">
          <IconButton size="small" onClick={onClose} aria-label="Close the sheet">
            <Glyph path="M4 4L12 12M12 4L4 12" />
          </IconButton>
        </Tooltip>
      </Box>
      <Box sx={{ flex: 1, overflow: "auto", px: 2, py: 1.5, minHeight: 0 }}>{children}</Box>
      {foot && <Box sx={{ px: 2, py: 1.25, borderTop: 1, borderColor: "divider" }}>{foot}</Box>}
    </Paper>
  );
}

export function Glyph({ path, large = 16 }: { path: string; large?: number }) {
  return (
    <svg width={large} height={large} viewBox="0 0 16 16" fill="none" stroke="currentColor" strokeWidth="1.7" aria-hidden="true">
      <path d={path} />
    </svg>
  );
}

/** A label with its value, one below the other. */
export function Fact({ label, children }: { label: string; children: ReactNode }) {
  return (
    <Box sx={{ minWidth: 0 }}>
      <Typography variant="caption" color="textSecondary" component="div">
        {label}
      </Typography>
      <Typography variant="body2" component="div" sx={{ overflowWrap: "anywhere" }}>
        {children}
      </Typography>
    </Box>
  );
}

/** CommonMark of other people; HTML in it is not shown, and pictures are not fetched. */
export function Prose({ text }: { text: string }) {
  return (
    <Box sx={{ color: "text.secondary", "& p": { my: 0.75 }, "& ul, & ol": { my: 0.5, pl: 3 } }}>
      <Markdown skipHtml disallowedElements={["img"]}>
        {text}
      </Markdown>
    </Box>
  );
}

/** A column of text for one thing at a time, as on the pages of members. */
export function Column({ children }: { children: ReactNode }) {
  return <Box sx={{ maxWidth: 640, mx: "auto", px: 2, py: { xs: 3, md: 5 }, width: "100%" }}>{children}</Box>;
}
