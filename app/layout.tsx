import '@fontsource/b612/400.css';
import '@fontsource/b612/700.css';
import '@fontsource/b612-mono/400.css';
import '@fontsource/b612-mono/700.css';
import type { Metadata } from 'next';
import type { ReactNode } from 'react';
import './globals.css';

/** No page is made in advance: each carries the nonce of its own answer. */
export const dynamic = 'force-dynamic';

export const metadata: Metadata = {
  title: 'Nimble Signal',
  description: 'Load, keep, probe, capture and drive FPGA designs over JTAG',
};

export default function RootLayout({ children }: { readonly children: ReactNode }) {
  return (
    <html lang="en">
      <body className="font-sans">{children}</body>
    </html>
  );
}
