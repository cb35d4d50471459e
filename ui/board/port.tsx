/** What the open design calls the pin of a part; undefined where none of its ports is on it. */
export interface Ported {
  readonly port?: string | undefined;
}

/** The ports on the pins of a part, each bus once. */
export function Ports({
  pins,
  ports,
}: {
  readonly pins: readonly string[];
  readonly ports: ReadonlyMap<string, string>;
}) {
  const names = new Set(pins.flatMap((pin) => ports.get(pin)?.replace(/\[\d+\]$/, '') ?? []));
  return names.size === 0 ? null : (
    <p className="mt-0.5 text-center text-[0.62rem] text-quiet leading-tight" title="Ports of the open design">
      {[...names].join(', ')}
    </p>
  );
}

export const Port = ({ port }: Ported) =>
  port === undefined ? null : (
    <span className="max-w-full break-all text-center text-[0.62rem] text-quiet leading-none" title={`Port ${port}`}>
      {port}
    </span>
  );
