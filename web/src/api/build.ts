/** Shapes of a build's result, which the API passes through as JSON. */
import type { Problem } from "./client";

export type Vec3 = [number, number, number];

export interface StepState {
  id: string;
  kind: string;
  name: string;
  status: "ok" | "failed" | "blocked" | "off";
  key: string | null;
  // biome-ignore lint/suspicious/noExplicitAny: facts differ by kind of step
  facts: Record<string, any>;
  problems: Problem[];
}
export interface BodyState {
  id: string;
  name: string;
  key: string;
  volume: number;
  area: number;
  faces: { name: string; kind: string }[];
}
export interface Figures {
  points: number;
  acceptance: number;
  inside_share: number;
  mean: number;
  rms: number;
  p95: number;
  max: number;
  unseen_share: number | null;
  worst: { point: Vec3; deviation: number }[];
  histogram: number[];
  sampled: boolean;
}
export interface FitState {
  key: string;
  scan: string;
  figures: Figures;
  last_step: string | null;
  change: number | null;
}
export interface BuildResult {
  steps: StepState[];
  scans: Record<string, string>;
  bodies: BodyState[];
  fit: FitState | null;
  problems: Problem[];
}
export interface Build {
  task: string | null;
  status: "queued" | "running" | "done" | "failed" | "cancelled";
  current: boolean;
  progress: { event: string; name?: string; index?: number; count?: number } | null;
  problem: Problem | null;
  result: BuildResult | null;
}
