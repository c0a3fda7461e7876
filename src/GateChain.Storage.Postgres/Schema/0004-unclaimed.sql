-- Holds until the transaction ends that no run of a service is claimed, and fails if one was since it looked last: a
-- batch of writers begins with it, so that a fence and its rows travel together.
CREATE FUNCTION hold_unclaimed(whose text, known bigint) RETURNS void LANGUAGE plpgsql AS $body$
BEGIN
  PERFORM FROM claims WHERE owner = whose AND taken = known FOR SHARE;
  IF NOT FOUND THEN
    RAISE EXCEPTION 'runs of this service were claimed' USING ERRCODE = 'GC001';
  END IF;
END
$body$;
