/**
 * How mail is shown as it was sent. The page's policy counts inside the frame too, and names this style by its hash: what
 * stands here is all that a frame may bring along.
 */
export const FRAME_STYLE = 'body{font:15px/1.5 sans-serif;color:#1D2B33;background:#fff;margin:12px;overflow-wrap:anywhere}'
