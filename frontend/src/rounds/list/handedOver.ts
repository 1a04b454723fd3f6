/** A file that was dropped on another page, on its way to the list of rounds, where it is brought in. */
let handed: File | null = null;

export const handOver = (file: File): void => {
  handed = file;
};

export function takeHanded(): File | null {
  const file = handed;
  handed = null;
  return file;
}
