"""Structure and words of messages by Python's email and html.parser: reads base64 lines, writes JSON lines."""
import base64
import email
import email.policy
import hashlib
import html.parser
import json
import sys


# Elements that stand within a line (HTML standard 15.3); a cell begins a new word by its start alone.
INLINE = ('b', 'i', 'span', 'a', 'font', 'em', 'noscript')


class Words(html.parser.HTMLParser):
    """The words of HTML outside scripts and styles."""

    def __init__(self):
        super().__init__(convert_charrefs=True)
        self.silent = 0
        self.text = []

    def handle_starttag(self, tag, attrs):
        self.silent += tag in ('script', 'style')
        self.text.append('' if tag in INLINE or tag == 'script' else ' ')

    def handle_endtag(self, tag):
        self.silent -= tag in ('script', 'style')
        self.text.append('' if tag in INLINE or tag in ('script', 'td') else ' ')

    def handle_data(self, data):
        if not self.silent:
            self.text.append(data)


def words(part):
    if part.get_content_type() != 'text/html':
        return None
    reader = Words()
    reader.feed(part.get_content())
    reader.close()
    return sorted(set(''.join(reader.text).split()))


for line in sys.stdin:
    m = email.message_from_bytes(base64.b64decode(line), policy=email.policy.default)
    leaves = [p for p in m.walk() if not p.is_multipart()]
    print(json.dumps({
        'defects': sorted({type(d).__name__ for p in m.walk() for d in p.defects}),
        'leaves': [[p.get_content_type(), p.get_filename() or '', hashlib.sha256(p.get_payload(decode=True) or b'').hexdigest()] for p in leaves],
        'words': [w for w in map(words, leaves) if w is not None],
    }))
