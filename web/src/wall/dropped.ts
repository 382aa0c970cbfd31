/** Files that were dropped, those in folders too. */

async function within(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))];
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  const all: File[] = [];
  // A reader gives a folder in parts.
  for (;;) {
    const part = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject));
    if (part.length === 0) return all;
    for (const one of part) if (!one.name.startsWith(".")) all.push(...(await within(one)));
  }
}

export async function filesOf(transfer: DataTransfer): Promise<File[]> {
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry()).filter((e) => e !== null);
  if (entries.every((e) => e.isFile)) return [...transfer.files];
  return (await Promise.all(entries.map(within))).flat();
}
