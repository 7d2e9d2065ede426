import type { ReactNode } from "react";

/** A designed empty, loading or failed state. */
export function Notice({ title, children, busy = false, alert = false }: { title: string; children?: ReactNode; busy?: boolean; alert?: boolean }) {
  return (
    <div className="flex h-full flex-col items-center justify-center gap-2 p-8 text-center" role={alert ? "alert" : "status"} aria-busy={busy}>
      <p className="m-0 text-lg">{title}</p>
      {children && <div className="max-w-[46ch]">{children}</div>}
    </div>
  );
}
