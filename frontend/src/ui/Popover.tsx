import { Popover as Radix } from "radix-ui";
import type { ReactNode } from "react";

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
          className={`z-50 max-h-(--radix-popover-content-available-height) overflow-auto rounded-[4px] border border-rule-strong bg-leaf p-4 shadow-lifted ${width}`}
        >
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
