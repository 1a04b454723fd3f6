import { useState } from "react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/Button.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { useDrop } from "../../ui/useDrop.ts";
import { handOver } from "../list/handedOver.ts";

type Props = {
  /** The round that the page shows, if it shows one. */
  title?: string | undefined;
  /** Takes the file as a newer version of the round's sheet, where it can have one. */
  onNewer: ((file: File) => void) | null;
};

/** A file that is dropped on a page: a newer version of its sheet, or a new round. Nothing is done before that is said. */
export function Dropped({ title, onNewer }: Props) {
  const go = useNavigate();
  const [file, setFile] = useState<File | null>(null);
  const over = useDrop(setFile);
  const done = () => setFile(null);
  return (
    <>
      {over && (
        <p role="status" className="pointer-events-none fixed inset-x-0 top-14 z-60 mx-auto w-fit rounded-[4px] border-2 border-dashed border-sent bg-leaf px-6 py-3 txt-15">
          Let the file go: then you are asked what it is.
        </p>
      )}
      {file && (
        <Dialog open onClose={done} title={`What is ${file.name}?`} about={`${title ? `This page shows the round ${title}. ` : ""}Nothing is changed before you say so.`}>
          <div className="mt-5 flex flex-wrap justify-end gap-3">
            <Button data-first className="txt-15" onClick={done}>
              Cancel
            </Button>
            <Button
              className="txt-15"
              onClick={() => {
                handOver(file);
                void go("/");
              }}
            >
              A new round
            </Button>
            {onNewer && (
              <Button
                className="txt-15"
                onClick={() => {
                  done();
                  onNewer(file);
                }}
              >
                A newer version of this sheet
              </Button>
            )}
          </div>
        </Dialog>
      )}
    </>
  );
}
