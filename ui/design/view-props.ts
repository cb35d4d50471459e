/** What a view is given: a way to have unsaved text saved before a build. */
export interface ViewProps {
  readonly beforeBuild: (save: (() => Promise<void>) | null) => void;
}
