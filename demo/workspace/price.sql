DELETE FROM payments WHERE day = date($day);
INSERT INTO payments (day, farm_id, litres, cents)
SELECT date($day), farm_id, sum(litres),
       round(sum(litres) * (SELECT cents_per_litre FROM prices WHERE valid_from <= $day ORDER BY valid_from DESC LIMIT 1), 2)
FROM pickups
WHERE date(taken_at) = date($day)
GROUP BY farm_id;
