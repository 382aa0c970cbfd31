/** How the picture is looked at as it will be printed: profile, intent, black point, the paper's white. */
import { useQuery } from "@tanstack/react-query";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { client, unwrap, type Schemas } from "../../api/client";
import type { Show } from "./compare";

export type Intent = NonNullable<Schemas["DeliveryIn"]["intent"]>;
export type Profile = Schemas["ProfileOut"];

export const INTENTS: readonly (readonly [Intent, string])[] = [
  ["relative", "Relative: colours it holds stay"],
  ["perceptual", "Perceptual: all move together"],
  ["saturation", "Saturation: colours stay strong"],
  ["absolute", "Absolute: the paper's tint stays"],
];

interface Proof {
  profile: string;
  intent: Intent;
  blackPoint: boolean;
  paper: boolean;
  set: (part: Partial<Omit<Proof, "set">>) => void;
}

export const useProof = create<Proof>()(
  persist((set) => ({ profile: "press", intent: "relative", blackPoint: true, paper: false, set }), { name: "mellow-glass-proof" }),
);

/** What a view is asked for to show it. */
export function printed(show: "proof" | "gamut", { profile, intent, blackPoint, paper }: Omit<Proof, "set">): Show {
  return { show, of: [profile, intent, Number(blackPoint), Number(paper)].join(",") };
}

export const PROFILES = ["profiles"];

export function useProfiles() {
  return useQuery({ queryKey: PROFILES, queryFn: () => unwrap(client.GET("/api/profiles")) });
}
