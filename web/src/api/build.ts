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
  values: Record<string, ValueState>;
  /** Bodies as they are after this step: body id to product key. */
  after: Record<string, string>;
  /** Scans as they are after this step: evidence id to product key. */
  scans?: Record<string, string>;
  cached: boolean;
  seconds: number;
}
/** What a formula comes to: mm, degrees or a number; `mark` is that of its weakest leaf. */
export interface ValueState {
  value: number;
  length: number;
  angle: number;
  mark: string | null;
}
export interface BodyState {
  id: string;
  name: string;
  colour: string | null;
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
  /** By step that makes or changes a body: share inside after it, and what it changed. */
  by_step: Record<string, { inside_share: number; change: number | null }>;
  /** Deviation at each pinned probe, mm. */
  probes: Record<string, number>;
}
export interface BuildResult {
  steps: StepState[];
  /** Scans as they came, and as the last step leaves them: evidence id to product key. */
  raw?: Record<string, string>;
  scans: Record<string, string>;
  /** Where each raw scan lies now, 4x4. */
  poses?: Record<string, number[][]>;
  /** Keys of what is known of each scan's health. */
  health?: Record<string, string>;
  /** Scans that went into another. */
  merged?: Record<string, string>;
  bodies: BodyState[];
  values: Record<string, ValueState>;
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
