DROP TABLE hand_spells;
