/** Reads a page anew when an event was undone: what it shows may be what came back. */
export function afterUndo(read: () => unknown): void {
  const notices = useNoticeStore()
  const directory = useDirectoryStore()
  watch(
    () => notices.undone,
    async () => {
      await directory.load()
      await read()
    },
  )
}
