import { DropdownMenu } from "radix-ui";
import type { ReactNode } from "react";

export type MenuItem = {
  label: string;
  /** What it does, in smaller words below. */
  about?: string;
  /** A file to save; without it, `onSelect` is done. */
  file?: string;
  onSelect?: () => void;
  /** Something that takes away for good. */
  grave?: boolean;
};

/** A list of what can be done, hanging from the button that opens it. */
export function Menu({ trigger, items, wide = false }: { trigger: ReactNode; items: MenuItem[]; wide?: boolean }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={6}
          className={`z-50 max-h-[70vh] overflow-auto rounded-[4px] border border-rule-strong bg-leaf py-1 shadow-lifted ${wide ? "w-[360px]" : ""}`}
        >
          {items.map((item) => {
            const words = (
              <>
                <span className={item.about ? "font-semibold" : "text-[15px]"}>{item.label}</span>
                {item.about && <span className="block text-[13px] leading-snug text-ink-2">{item.about}</span>}
              </>
            );
            const look = `block cursor-pointer px-4 py-1.5 outline-none data-highlighted:bg-chosen ${item.grave ? "border-t border-rule text-failed" : ""}`;
            return item.file ? (
              <DropdownMenu.Item key={item.label} asChild>
                <a href={item.file} download className={look}>
                  {words}
                </a>
              </DropdownMenu.Item>
            ) : (
              <DropdownMenu.Item key={item.label} className={look} onSelect={() => item.onSelect?.()}>
                {words}
              </DropdownMenu.Item>
            );
          })}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
