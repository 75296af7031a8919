"""Who may do what: signing in, the people of a studio, second factors.

accounts: signing in and out, sessions, the first owner; throttle: wrong passwords slow down; staff: invitations, roles, removal,
new passwords; factors: one-time codes and passkeys; secrets: tokens and what is kept of them.
"""
