import type { Post } from '@/core/span/model';

const shapes: Record<Post, React.ReactNode> = {
  stands: (
    <>
      <path d="M1.5 11h9" stroke="currentColor" />
      <rect x="4.5" y="1" width="3" height="10" fill="currentColor" />
    </>
  ),
  leans: (
    <>
      <path d="M.5 11h11" stroke="currentColor" />
      <path d="M1.5 11 7 .8h3.6L5.1 11Z" fill="currentColor" />
    </>
  ),
  broken: (
    <>
      <path d="M.5 11h11" stroke="currentColor" />
      <path d="M2 11V5.2l4 2.6V11Z" fill="currentColor" />
      <path d="M6.2 .5h4v5.9l-4-2.6Z" fill="currentColor" />
    </>
  ),
  'in work': (
    <>
      <path d="M1 11h10" stroke="currentColor" />
      <rect x="3.5" y="1.5" width="5" height="9.5" fill="none" stroke="currentColor" />
      <rect x="3.5" y="6.5" width="5" height="4.5" fill="currentColor" />
    </>
  ),
  absent: (
    <>
      <path d="M.5 11h3M8.5 11h3" stroke="currentColor" />
      <path d="M3.5 9.5v-8h5v8" fill="none" stroke="currentColor" strokeDasharray="1.5 1.5" />
    </>
  ),
};

/** How a thing stands, as a shape: the state is never told by colour alone. */
export function StatePost({ post }: { post: Post }) {
  return (
    <svg className="post" data-post={post} viewBox="0 0 12 12" role="img" aria-label={post}>
      {shapes[post]}
    </svg>
  );
}
