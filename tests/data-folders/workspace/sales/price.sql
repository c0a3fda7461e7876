SELECT 1 AS price
