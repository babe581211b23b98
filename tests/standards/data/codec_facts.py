"""What Python's standard library reads: takes JSON on standard input, writes JSON."""
import base64
import binascii
import email.header
import email.utils
import json
import quopri
import sys


def date(text):
    try:
        found = email.utils.parsedate_tz(text)
        return None if found is None else email.utils.mktime_tz(found)
    except (ValueError, TypeError, OverflowError):
        return None


def words(text):
    out = ''
    for piece, charset in email.header.decode_header(text):
        out += piece if isinstance(piece, str) else piece.decode(charset or 'ascii', 'replace')
    return out


asked = json.load(sys.stdin)
print(json.dumps({
    'base64': [binascii.a2b_base64(t).hex() for t in asked['base64']],
    'quoted': [quopri.decodestring(t.encode('latin1')).hex() for t in asked['quoted']],
    'charsets': [base64.b64decode(t).decode(c) for c, t in asked['charsets']],
    'words': [words(t) for t in asked['words']],
    'dates': [date(t) for t in asked['dates']],
    'addresses': [email.utils.getaddresses([t]) for t in asked['addresses']],
}))
