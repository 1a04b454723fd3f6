import { Dialog as Radix } from "radix-ui";
import { useRef, type ReactNode } from "react";
import { firstIn, giveBack } from "./focus.ts";

type Props = {
  open: boolean;
  onClose: () => void;
  /** Called once the focus is back on the page; what follows may move it from there. No key comes in between. */
  onClosed?: () => void;
  title: string;
  about?: ReactNode;
  wide?: boolean;
  children: ReactNode;
};

/** A sheet of paper laid over the desk; Escape takes it away. */
export function Dialog({ open, onClose, onClosed, title, about, wide = false, children }: Props) {
  const paper = useRef<HTMLDivElement>(null);
  return (
    <Radix.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/35" />
        <Radix.Content
          ref={paper}
          onOpenAutoFocus={(event) => {
            event.preventDefault();
            if (paper.current) (firstIn(paper.current) ?? paper.current).focus({ preventScroll: true });
          }}
          onCloseAutoFocus={(event) => {
            event.preventDefault();
            giveBack();
            onClosed?.();
          }}
          className={`fixed top-1/2 left-1/2 z-50 max-h-[92vh] -translate-x-1/2 -translate-y-1/2 overflow-auto rounded-[4px] border border-rule-strong bg-paper p-6 shadow-lifted ${wide ? "w-[1000px]" : "w-[540px]"} max-w-[96vw]`}
          {...(about ? {} : { "aria-describedby": undefined })}
        >
          <Radix.Title className="title txt-22 leading-tight">{title}</Radix.Title>
          {about && <Radix.Description className="mt-1.5 txt-15 text-ink-2">{about}</Radix.Description>}
          {children}
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  );
}
