// A button that asks for a file; the field itself is not drawn.
import Button from "@mui/material/Button";
import { useRef, type ReactNode } from "react";

interface Props {
  /** What the field is called. */
  label: string;
  accept?: string;
  disabled?: boolean;
  variant?: "text" | "outlined" | "contained";
  onFile: (file: File) => void;
  children: ReactNode;
}

export function FileButton({ label, accept, disabled = false, variant = "outlined", onFile, children }: Props) {
  const field = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button variant={variant} disabled={disabled} onClick={() => field.current?.click()}>{children}</Button>
      <input ref={field} type="file" aria-label={label} accept={accept} hidden onChange={(event) => event.target.files?.[0] && onFile(event.target.files[0])} />
    </>
  );
}
