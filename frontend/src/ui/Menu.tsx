import { withValue } from "../api/key.ts";
import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";

export type MenuItem = {
  label: string;
  /** What it does, in smaller words below. */
  about?: string;
  /** A file to save; without it, `onSelect` is done. */
  file?: string;
  onSelect?: () => void;
  /** Tells apart what is called alike. */
  key?: string;
  /** Something that takes away for good. */
  grave?: boolean;
};

type Props = {
  trigger: ReactNode;
  items: MenuItem[];
  wide?: boolean;
  /** Said where there is nothing in the list. */
  empty?: string;
  /** Where something else than the button opens it as well. */
  open?: boolean;
  onOpenChange?: (open: boolean) => void;
};

/** A list of what can be done, hanging from the button that opens it. */
export function Menu({ trigger, items, wide = false, empty, open, onOpenChange }: Props) {
  const controlled = open === undefined ? {} : { open };
  const listening = onOpenChange ? { onOpenChange } : {};
  return (
    // What is around an open list stays there for those who cannot see it.
    <DropdownMenu.Root modal={false} {...controlled} {...listening}>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className={`z-50 max-h-[70vh] max-w-[94vw] overflow-auto rounded-[4px] border border-rule-strong bg-leaf py-1 shadow-lifted ${wide ? "w-[360px]" : ""}`}
        >
          {items.length === 0 && <p className="px-4 py-1.5 text-ink-2">{empty}</p>}
          {items.map((item) => {
            const words = (
              <>
                <span className={item.about ? "font-semibold" : "txt-15"}>{item.label}</span>
                {item.about && <span className="block txt-13 leading-snug text-ink-2">{item.about}</span>}
              </>
            );
            const look = `block cursor-pointer px-4 py-1.5 outline-none data-highlighted:bg-chosen ${item.grave ? "border-t border-rule text-failed" : ""}`;
            return item.file ? (
              <DropdownMenu.Item key={item.key ?? item.label} asChild>
                <a href={withValue(item.file)} download className={look}>
                  {words}
                </a>
              </DropdownMenu.Item>
            ) : (
              <DropdownMenu.Item key={item.key ?? item.label} className={look} onSelect={() => item.onSelect?.()}>
                {words}
              </DropdownMenu.Item>
            );
          })}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
