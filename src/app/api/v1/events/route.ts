import { answer } from '@/server/http';

export const dynamic = 'force-dynamic';

/** Commits, job progress, clock and changes as they happen (server-sent events). */
export const GET = (request: Request) =>
  answer(({ plant }) => {
    const { events } = plant;
    const encoder = new TextEncoder();
    let end = () => {};
    const stream = new ReadableStream<Uint8Array>({
      start(controller) {
        const send = (event: { type: string }) =>
          controller.enqueue(encoder.encode(`event: ${event.type}\ndata: ${JSON.stringify(event)}\n\n`));
        const stopListening = events.listen(send);
        const beat = setInterval(() => controller.enqueue(encoder.encode(': still here\n\n')), 15_000);
        const stopWaiting = events.onShutDown(() => end());
        let open = true;
        end = () => {
          if (!open) return;
          open = false;
          stopListening();
          stopWaiting();
          clearInterval(beat);
          try {
            controller.close();
          } catch {
            // The client was faster: the stream is closed already.
          }
        };
        request.signal.addEventListener('abort', end);
        plant.tellClock();
        plant.troubles.tell();
      },
      cancel: () => end(),
    });
    return new Response(stream, {
      headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-cache, no-transform' },
    });
  });
