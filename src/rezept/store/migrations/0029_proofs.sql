-- What a trial proves on a real, intricate shape: something of a burn (one of its steps), or a recipe.
ALTER TABLE trial ADD COLUMN proof_of_burn INTEGER REFERENCES burn (id);
ALTER TABLE trial ADD COLUMN proof_of_step INTEGER CHECK (proof_of_step >= 1);
ALTER TABLE trial ADD COLUMN proof_of_recipe INTEGER REFERENCES recipe (id);
CREATE INDEX trial_proof_of_burn ON trial (proof_of_burn) WHERE proof_of_burn IS NOT NULL;
CREATE INDEX trial_proof_of_recipe ON trial (proof_of_recipe) WHERE proof_of_recipe IS NOT NULL;
