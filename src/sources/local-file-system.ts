import { statfs } from "node:fs/promises";

// File systems of Linux whose names and metadata, once read, are answered from the kernel's memory: statfs(2), magic numbers.
const LOCAL_TYPES = new Set([
  0xef53, // ext2, ext3, ext4
  0x58465342, // XFS
  0x9123683e, // Btrfs
  0x2fc12fc1, // ZFS
  0xf2f52010, // F2FS
  0x01021994, // tmpfs
  0x794c7630, // overlayfs, as in containers
  0x73717368, // SquashFS
]);

/**
 * True when opening a file that was opened a moment ago cannot wait for anything: the folder lies on a local file system of a
 * kind that is known. A network file system asks its server at each open, and answers false.
 */
export async function isLocalFileSystem(folder: string): Promise<boolean> {
  if (process.platform !== "linux") return false;
  try {
    return LOCAL_TYPES.has(Number((await statfs(folder)).type));
  } catch {
    return false;
  }
}
