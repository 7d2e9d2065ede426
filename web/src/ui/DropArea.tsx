import { useState, type ReactNode } from "react";

/** A place that files are dropped on; it says so while they are above it. */
export function DropArea({
  label,
  className,
  onFiles,
  children,
}: {
  label: string;
  className: string;
  onFiles: (files: File[]) => void;
  children: ReactNode;
}) {
  const [over, setOver] = useState(false);
  return (
    <section
      aria-label={label}
      // What is hidden in it for the keyboard lies in it, and makes no page longer.
      className={`relative border border-dashed ${className}`}
      style={{
        borderColor: over ? "var(--ink)" : "var(--line)",
        background: over ? "var(--lift)" : undefined,
      }}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        onFiles([...event.dataTransfer.files]);
      }}
    >
      {children}
    </section>
  );
}
