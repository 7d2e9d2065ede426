import type { ReactNode } from "react";

type Props = {
  title: string;
  children?: ReactNode;
  busy?: boolean;
  alert?: boolean;
  /** Within a screen rather than instead of one. */
  inside?: boolean;
};

/** A designed empty, loading or failed state. */
export function Notice({ title, children, busy = false, alert = false, inside = false }: Props) {
  const Title = inside ? "p" : "h1";
  const said = (
    <div
      className="flex h-full flex-col items-center justify-center gap-2 p-8 text-center"
      role={alert ? "alert" : "status"}
      aria-busy={busy}
    >
      <Title className="m-0 text-lg font-normal">{title}</Title>
      {children && <div className="max-w-[46ch]">{children}</div>}
    </div>
  );
  return inside ? said : <main className="h-full">{said}</main>;
}
