import { Dialog as Radix } from "radix-ui";
import type { ReactNode } from "react";

type Props = {
  open: boolean;
  onClose: () => void;
  title: string;
  about?: ReactNode;
  wide?: boolean;
  children: ReactNode;
};

/** A sheet of paper laid over the desk; Escape takes it away. */
export function Dialog({ open, onClose, title, about, wide = false, children }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <Radix.Content
          className={`fixed top-1/2 left-1/2 z-50 max-h-[92vh] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-[4px] border border-rule-strong bg-paper p-6 shadow-lifted ${wide ? "w-[1000px]" : "w-[540px]"} max-w-[96vw]`}
          {...(about ? {} : { "aria-describedby": undefined })}
        >
          <Radix.Title className="title text-[22px] leading-tight">{title}</Radix.Title>
          {about && <Radix.Description className="mt-1.5 text-[15px] text-ink-2">{about}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
