"""Light from emitters to places, one driver per effect; each takes a cache that may be empty.

illuminate: many places at once; direct, direct_cache: one face at one place; card_radiance, lobe_radiance: what cards and sheets show;
through_sheet: lamps that show through a weak frost;
table_bounce; rough_specular: lamps on blurred mirrors; occlusion: what stands between; illuminance: closed forms.
"""
