"""Second factors by kept libraries, behind the Protocols of services.people.factors.

codes: one-time codes of an authenticator; passkeys: keys that a browser or device holds.
"""
