import { mapOf, type ProbeMap, type RecorderMap } from '../../core/probes/map.ts';

/** The map of one recorder, the smallest there is unless something else is said. */
export const recorderMap = (over: Partial<RecorderMap> = {}): RecorderMap => ({
  ...{ kind: 'recorder', core: 1, name: 'r', clock: 'clk', depth: 16, width: 8, signals: [] },
  ...{ comparators: 1, stages: 1, qualifier: false, segments: 1, atTrigger: [] },
  ...over,
});

/** A build with that recorder and nothing else. */
export const oneRecorder = (over: Partial<RecorderMap> = {}, fingerprint = '00'.repeat(16)): ProbeMap =>
  mapOf(fingerprint, [recorderMap(over)]);
