DROP TABLE reservations;
DROP TABLE arrivals;
DROP TABLE miniature_options;
DROP TABLE miniatures;
