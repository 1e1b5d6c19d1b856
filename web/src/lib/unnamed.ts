/** Recordings nobody has said yet what they are: in the browser's own store until they are named or thrown away. */
import { type DBSchema, type IDBPDatabase, openDB } from "idb";

export interface Unnamed {
  id: string;
  madeAt: string;
  seconds: number;
  /** How it was recorded. */
  capture: string;
  sound: Blob;
}

interface Store extends DBSchema {
  recordings: { key: string; value: Unnamed };
}

let store: Promise<IDBPDatabase<Store>> | null = null;

function opened(): Promise<IDBPDatabase<Store>> {
  store ??= openDB<Store>("fortimetra-unnamed", 1, {
    upgrade: (database) => {
      database.createObjectStore("recordings", { keyPath: "id" });
    },
  });
  return store;
}

export async function putUnnamed(recording: Unnamed): Promise<void> {
  await (await opened()).put("recordings", recording);
}

/** The newest first. */
export async function unnamed(): Promise<Unnamed[]> {
  const found = await (await opened()).getAll("recordings");
  return found.sort((a, b) => b.madeAt.localeCompare(a.madeAt));
}

export async function takeOutUnnamed(id: string): Promise<void> {
  await (await opened()).delete("recordings", id);
}
