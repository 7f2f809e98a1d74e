import { SpanView } from '@/ui/span/span-view';

export default function SpanPage() {
  return <SpanView />;
}
