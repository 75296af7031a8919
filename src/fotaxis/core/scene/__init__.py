"""What stands on the set.

plan: the whole set as one checked value; product, products: what is photographed, one file per shape; checks: what cannot stand
where it stands; catalogue_sets: small sets that show one material or light.
"""
