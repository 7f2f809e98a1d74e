import { preload } from 'react-dom';
import { SpanView } from '@/ui/span/span-view';

export default function SpanPage() {
  // The drawing's figures are asked for together with the scripts, not after them.
  preload('/api/v1/span/sight', { as: 'fetch', crossOrigin: 'anonymous' });
  return <SpanView />;
}
