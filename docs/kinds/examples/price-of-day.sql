SELECT day, cents FROM daily_prices WHERE day = $day
