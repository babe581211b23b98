import type { Direction } from '#core/message'

/** What is said where a rule or an assignment is for mail of a direction in which none is accepted; empty where some is. */
export function useAcceptedDirections(): (direction: Direction | undefined) => string {
  const directory = useDirectoryStore()
  return (direction = 'inbound') => {
    const accepts = directory.data?.accepts
    if (direction === 'inbound' || !accepts || accepts[direction]) return ''
    return direction === 'outbound'
      ? 'No outbound mail is accepted: mail is accepted only for addresses of users. This matches no mail.'
      : 'No mail counts as internal: no own network is configured in Settings. This matches no mail.'
  }
}
