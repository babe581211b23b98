"""Facts of messages by Python's email package: reads base64 lines, writes JSON lines."""
import base64
import email
import email.policy
import email.utils
import json
import sys

for line in sys.stdin:
    raw = base64.b64decode(line)
    m = email.message_from_bytes(raw, policy=email.policy.default)
    addresses = lambda name: [[a.display_name, a.addr_spec] for h in m.get_all(name, []) for a in h.addresses]
    body = m.get_body(('html', 'plain')) if m.get_content_maintype() in ('text', 'multipart') else None
    print(json.dumps({
        'from': addresses('from'), 'to': addresses('to'), 'subject': str(m['subject'] or ''),
        'date': email.utils.parsedate_to_datetime(m['date']).timestamp() if m['date'] else None,
        'messageId': str(m['message-id'] or '').strip().strip('<>'),
        'headers': [k.lower() for k in m.keys()],
        'attachments': [[a.get_filename() or '', len(a.get_payload(decode=True) or b'')] for a in m.iter_attachments()],
        'words': sorted(set(body.get_content().split())) if body is not None and body.get_content_type() == 'text/plain' else None,
        'leaves': [p.get_content_type() for p in m.walk() if not p.is_multipart()],
    }))
