import { useCallback, useEffect, useState } from "react";
import { http } from "../api/client";
import { signedIn } from "../api/people";
import type { SheetView } from "../api/sheets";
import { queued, refusedOf, type Waiting } from "./sheet";

const AGAIN_MS = 5000;

/** A sheet that goes on without a network: what was last seen of it is kept here, and so is what is typed, until it can be sent. */
export function useQueue(design: string, number: number) {
  const name = `sheet ${design} ${number}`;
  const [sheet, setSheet] = useState<SheetView | null>(() => stored<SheetView>(name));
  const [waiting, setWaiting] = useState<Waiting[]>(() => stored<Waiting[]>(`${name} waiting`) ?? []);
  const [state, setState] = useState<"asking" | "here" | "away" | "signed-out" | "gone">("asking");
  const [refused, setRefused] = useState<string | null>(null);

  const took = useCallback(
    (found: SheetView) => {
      setSheet(found);
      localStorage.setItem(name, JSON.stringify(found));
      setState("here");
    },
    [name],
  );
  const settle = useCallback(
    (left: Waiting[]) => {
      setWaiting(left);
      localStorage.setItem(`${name} waiting`, JSON.stringify(left));
    },
    [name],
  );

  const sync = useCallback(async () => {
    const mine = stored<Waiting[]>(`${name} waiting`) ?? [];
    const params = { path: { design_id: design, number } };
    try {
      if (mine.length > 0 && !(await signedIn())) return setState("signed-out");
      const { data, error, response } =
        mine.length > 0
          ? await http.POST("/api/designs/{design_id}/sheets/{number}/marks", { params, body: mine })
          : await http.GET("/api/designs/{design_id}/sheets/{number}", { params });
      if (response.status === 401) return setState("signed-out");
      if (response.status === 404) return setState("gone");
      if (response.status === 422 && mine.length > 0) {
        const told = error as { errors?: { pointer: string; sentence?: string }[]; detail?: string };
        setRefused(told.errors?.[0]?.sentence ?? told.detail ?? "One answer is none that this test can have.");
        const bad = refusedOf(told.errors ?? []);
        settle(mine.filter((_, k) => bad.length > 0 && !bad.includes(k))); // the others are sent by themselves
        return;
      }
      if (!data) return setState("away");
      settle((stored<Waiting[]>(`${name} waiting`) ?? []).filter((w) => !mine.some((m) => m.line === w.line && m.at === w.at)));
      took(data as unknown as SheetView);
    } catch {
      setState("away");
    }
  }, [design, name, number, settle, took]);

  useEffect(() => {
    const first = window.setTimeout(() => void sync(), 0);
    const again = window.setInterval(() => void sync(), AGAIN_MS);
    const back = () => void sync();
    window.addEventListener("online", back);
    return () => {
      window.clearTimeout(first);
      window.clearInterval(again);
      window.removeEventListener("online", back);
    };
  }, [sync]);

  const say = (line: string, value: string, note = "") => {
    setRefused(null);
    settle(queued(waiting, { line, value, note, at: new Date().toISOString() }));
    void sync();
  };
  return { sheet, waiting, state, refused, say };
}

function stored<T>(name: string): T | null {
  try {
    return JSON.parse(localStorage.getItem(name) ?? "null") as T | null;
  } catch {
    return null;
  }
}
