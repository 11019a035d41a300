-- What the chain of cold starts from. Empty on trips where it was not noted.

ALTER TABLE trip ADD COLUMN sea_c REAL;
ALTER TABLE trip ADD COLUMN air_c REAL;
ALTER TABLE trip ADD COLUMN ice_kg REAL;
