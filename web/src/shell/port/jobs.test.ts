import { describe, expect, it } from "vitest";
import { jobsFor, wantedOf } from "./jobs";

describe("jobs on chosen ports", () => {
  const asked = (kind: string, id: string, ports: string[], text: string) => {
    const job = jobsFor(kind).find((j) => j.id === id);
    return job ? wantedOf(job, { device: "sw1", ports }, text) : undefined;
  };

  it("asks for nothing before ports are chosen, or while a name is wanted", () => {
    for (const kind of ["switch", "firewall", "router"]) {
      for (const job of jobsFor(kind)) {
        expect(wantedOf(job, { device: "sw1", ports: [] }, "2 shop")).toBeNull();
        if (job.asks?.needed) expect(wantedOf(job, { device: "sw1", ports: ["1", "2"] }, "  ")).toBeNull();
        else expect(wantedOf(job, { device: "sw1", ports: ["1", "2"] }, "")?.action).toBe(job.id);
      }
    }
  });

  it("tells the routed port and the name apart, and takes a number for a VLAN only", () => {
    expect(asked("switch", "join-routed", ["3", "4"], "2 work shop")).toEqual({
      action: "join-routed",
      body: { device: "sw1", routed: "2", ports: "3, 4", name: "work-shop" },
    });
    expect(asked("switch", "join-routed", ["3"], "2")).toBeNull();
    expect(asked("switch", "phone-and-desk", ["3"], " 180 ")?.body).toMatchObject({ phone: 180 });
    expect(asked("switch", "phone-and-desk", ["3"], "voice")?.body).toMatchObject({ phone: null });
  });

  it("keeps to what a kind of box can have, and to two ends of an inline pair", () => {
    expect(asked("switch", "inline-pair", ["1", "2"], "line")).toBeUndefined();
    expect(asked("firewall", "inline-pair", ["1", "2", "3"], "line")).toBeNull();
    expect(asked("firewall", "little-switch", ["1"], "lab")).toBeNull();
  });
});
