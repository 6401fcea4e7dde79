DROP TABLE concerns_put_aside;
