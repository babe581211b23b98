/** Reads a page anew when an act was taken back: what it shows may be what came back. */
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
