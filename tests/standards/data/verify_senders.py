"""DKIM and ARC by dkimpy, SPF by pyspf (Debian's python3-dkim, python3-spf), DNS from a zone by dnspython. JSON in, JSON out."""
import base64
import json
import sys

import dkim
import dns.rdatatype
import dns.zone
import spf

asked = json.load(sys.stdin)
zone = dns.zone.from_text(asked['zone'], origin='.', relativize=False, check_origin=False)


def records(name, kind):
    try:
        node = zone.get_rdataset(name.rstrip('.') + '.', kind)
    except Exception:  # a name that cannot be one
        return []
    return list(node) if node else []


def txt(name, timeout=5):
    name = name.decode() if isinstance(name, bytes) else name
    found = records(name, 'TXT')
    return b''.join(found[0].strings) if found else None


def looked_up(name, kind, *_):
    if kind not in ('A', 'AAAA', 'MX', 'TXT', 'PTR'):
        return []
    shape = {
        'A': lambda r: r.address,
        'AAAA': lambda r: r.address,
        'TXT': lambda r: tuple(r.strings),
        'MX': lambda r: (r.preference, r.exchange.to_text(omit_final_dot=True)),
        'PTR': lambda r: r.target.to_text(omit_final_dot=True),
    }[kind]
    return [((name, kind), shape(r)) for r in records(name, kind)]


spf.DNSLookup = looked_up


def verified(raw):
    message = base64.b64decode(raw)
    out = []
    count = sum(1 for k, _ in dkim.DKIM(message).headers if k.lower() == b'dkim-signature')
    for i in range(count):
        try:
            out.append(bool(dkim.DKIM(message).verify(i, dnsfunc=txt)))
        except Exception:  # whatever a fault makes it say is no pass
            out.append(False)
    return out


def arc_verified(raw):
    try:
        result, _, _ = dkim.arc_verify(base64.b64decode(raw), dnsfunc=txt)
        return result.decode()
    except Exception:  # whatever a fault makes it say is no pass
        return 'fail'


def signed(s):
    message = base64.b64decode(s['message'])
    key = asked['keys'][s['algorithm']].encode()
    head, body = s['canonical'].split('/')
    line = dkim.sign(
        message, s['selector'].encode(), s['domain'].encode(), key,
        canonicalize=(head.encode(), body.encode()), length=s['length'],
        signature_algorithm=s['algorithm'].encode(),
        include_headers=[h.encode() for h in s['headers']] if s['headers'] else None,
    )
    return base64.b64encode(line + message).decode()


def sealed(s):
    message = base64.b64decode(s['message'])
    lines = dkim.arc_sign(message, s['selector'].encode(), s['domain'].encode(), asked['keys']['rsa-sha256'].encode(),
                          s['domain'].encode())
    return base64.b64encode(b''.join(lines) + message).decode()


print(json.dumps({
    'signed': [signed(s) for s in asked.get('sign', [])],
    'sealed': [sealed(s) for s in asked.get('seal', [])],
    'verified': [verified(m) for m in asked.get('verify', [])],
    'arc': [arc_verified(m) for m in asked.get('arc', [])],
    'spf': [spf.query(i=q['ip'], s=q['sender'], h=q['helo'], strict=1, querytime=0).check()[0] for q in asked.get('spf', [])],
}))
