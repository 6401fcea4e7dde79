DROP TABLE vats;
DROP TABLE moves;
DROP TABLE bottles;
