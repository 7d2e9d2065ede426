import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";

/** A dialog over the page: Esc closes it, focus returns where it was. */
export function Dialog({
  open,
  onClose,
  title,
  children,
  wide = false,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <Radix.Root
      open={open}
      onOpenChange={(now) => {
        if (!now) onClose();
      }}
    >
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40" style={{ background: "rgb(0 0 0 / 0.35)" }} />
        <Radix.Content
          aria-describedby={undefined}
          className={`scrolls dialog fixed z-50 left-1/2 top-1/2 max-h-[86vh] max-w-[94vw] -translate-x-1/2 -translate-y-1/2 p-5 ${wide ? "w-[54rem]" : "w-[27rem]"}`}
          style={{ background: "var(--lift)", border: "1px solid var(--ink)" }}
        >
          <div className="mb-3 flex items-baseline justify-between gap-4">
            <Radix.Title className="text-lg">{title}</Radix.Title>
            <Radix.Close className="plain">
              close{" "}
              <span className="key" aria-hidden="true">
                Esc
              </span>
            </Radix.Close>
          </div>
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
