/** A file with the name it arrives under: what lies in a folder carries the folder's name. */
export type Named = { file: File; name: string; inFolder: boolean };

const READ = /\.(jpe?g|png|tiff?)$/i;

/** A folder often says how its files were made: "fortnimm/quay.jpg" arrives as "quay-fortnimm.jpg". */
export function nameIn(folders: readonly string[], name: string): string {
  const folder = folders.at(-1);
  if (!folder) return name;
  const dot = name.lastIndexOf(".");
  const stem = dot > 0 ? name.slice(0, dot) : name;
  const said = stem.toLowerCase().split(/[^\p{L}\p{N}]+/u);
  const fresh = folder
    .split(/[^\p{L}\p{N}]+/u)
    .filter((word) => word && !said.includes(word.toLowerCase()));
  return fresh.length ? `${stem}-${fresh.join("-")}${dot > 0 ? name.slice(dot) : ""}` : name;
}

/** What is sent: every file that somebody named, and of folders those that can be read; and how many others there were. Hidden ones are nobody's. */
export function readable(some: readonly Named[]): { taken: Named[]; others: number } {
  const shown = some.filter((one) => !one.inFolder || !one.file.name.startsWith("."));
  const taken = shown.filter((one) => !one.inFolder || READ.test(one.file.name));
  return { taken, others: shown.length - taken.length };
}

/** Of a chooser of files or of a folder; the folder that was chosen itself says nothing. */
export const chosen = (files: Iterable<File>): Named[] =>
  [...files].map((file) => ({
    file,
    name: nameIn(file.webkitRelativePath.split("/").slice(1, -1), file.name),
    inFolder: file.webkitRelativePath !== "",
  }));

function entriesOf(reader: FileSystemDirectoryReader): Promise<FileSystemEntry[]> {
  return new Promise((resolve, reject) => reader.readEntries(resolve, reject));
}

async function walked(entry: FileSystemEntry, folders: readonly string[]): Promise<Named[]> {
  if (entry.isFile)
    return new Promise((resolve, reject) =>
      (entry as FileSystemFileEntry).file(
        (file) =>
          resolve([{ file, name: nameIn(folders, file.name), inFolder: folders.length > 0 }]),
        reject,
      ),
    );
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const found: Named[] = [];
  // A reader gives a hundred at a time, and none at the end.
  for (let some = await entriesOf(reader); some.length > 0; some = await entriesOf(reader))
    for (const one of some) found.push(...(await walked(one, [...folders, entry.name])));
  return found;
}

/** What was dropped, folders and all. A folder that was dropped itself says nothing; those inside it do. */
export async function dropped(transfer: DataTransfer): Promise<Named[]> {
  const entries = [...transfer.items].flatMap((item) => item.webkitGetAsEntry() ?? []);
  if (entries.length === 0)
    return [...transfer.files].map((file) => ({ file, name: file.name, inFolder: false }));
  const found: Named[] = [];
  for (const entry of entries)
    for (const one of await walked(entry, []))
      found.push(entry.isDirectory ? { ...one, name: withoutRoot(one, entry.name) } : one);
  return found;
}

const withoutRoot = (one: Named, root: string): string =>
  one.name === nameIn([root], one.file.name) ? one.file.name : one.name;
