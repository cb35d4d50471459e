'use client';
import { useState } from 'react';
import type { PinOffer } from '../../../core/constraints/index.ts';
import { Button, Checkbox } from '../../shared/index.ts';

interface Props {
  readonly offers: readonly PinOffer[];
  readonly onTake: (offers: readonly PinOffer[]) => void;
  readonly onClose: () => void;
}

const SURE = 0.75;

/** Pins whose nets have names like the ports'. Nothing is taken before it is said. */
export function Offers({ offers, onTake, onClose }: Props) {
  const [left, setLeft] = useState<ReadonlySet<string>>(
    () => new Set(offers.filter((offer) => offer.score < SURE).map((offer) => offer.name)),
  );
  const taken = offers.filter((offer) => !left.has(offer.name));
  const toggle = (name: string) =>
    setLeft((old) => {
      const next = new Set(old);
      if (!next.delete(name)) next.add(name);
      return next;
    });
  return (
    <div className="mb-1 border-doubt border-l-4 bg-raised px-3 py-1 text-sm">
      <p>
        {offers.length === 0
          ? 'The board has no net whose name fits a port without a pin.'
          : 'Nets of the board with names like these ports:'}
      </p>
      <ul className="my-1 max-h-40 columns-2 overflow-auto">
        {offers.map((offer) => (
          <li key={offer.name}>
            <label className="flex items-baseline gap-2">
              <Checkbox checked={!left.has(offer.name)} onChange={() => toggle(offer.name)} />
              <span className="code text-xs">{offer.name}</span> → <span className="code text-xs">{offer.pin}</span>
              <span className="truncate text-quiet text-xs" title={offer.because}>
                {offer.net}
                {offer.score < SURE ? ', doubtful' : ''}
              </span>
            </label>
          </li>
        ))}
      </ul>
      <div className="flex gap-2">
        {offers.length > 0 && (
          <Button disabled={taken.length === 0} onClick={() => onTake(taken)}>
            Take {taken.length}
          </Button>
        )}
        <Button look="quiet" onClick={onClose}>
          Leave them
        </Button>
      </div>
    </div>
  );
}
