import { Popover as Radix } from "radix-ui";
import type { ReactNode } from "react";
import { firstIn, isPassing } from "./focus.ts";

type Props = {
  trigger: ReactNode;
  children: ReactNode;
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
  side?: "top" | "bottom";
  label: string;
  width?: string;
};

/** A slip of paper that hangs from what was pressed. */
export function Popover({ trigger, children, open, onOpenChange, side = "bottom", label, width = "w-72" }: Props) {
  const controlled = open === undefined ? {} : { open };
  const listening = onOpenChange ? { onOpenChange } : {};
  return (
    <Radix.Root {...controlled} {...listening}>
      <Radix.Trigger asChild>{trigger}</Radix.Trigger>
      <Radix.Portal>
        <Radix.Content
          side={side}
          align="start"
          sideOffset={6}
          collisionPadding={12}
          aria-label={label}
          onOpenAutoFocus={(event) => {
            const first = event.target instanceof HTMLElement ? firstIn(event.target) : null;
            if (!first) return;
            event.preventDefault();
            first.focus();
          }}
          // The focus is given back a moment after the closing: a quick hand may have opened something by then.
          onCloseAutoFocus={(event) => isPassing() && event.preventDefault()}
          className={`z-50 max-h-(--radix-popover-content-available-height) max-w-[94vw] overflow-auto rounded-[4px] border border-rule-strong bg-leaf p-4 shadow-lifted ${width}`}
        >
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
