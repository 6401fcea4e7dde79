DROP TABLE print_times;
