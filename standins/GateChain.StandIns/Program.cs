using GateChain.StandIns;

// gatechain-standins [HTTP-PORT [SMTP-PORT]]: runs until it is asked to end.
var ports = args.Select(int.Parse).Concat([0, 0]).Take(2).ToArray();
await using var standIns = await World.StartAsync(ports[0], ports[1]);
Console.WriteLine($"Larkmoor's stand-ins listen at {standIns.Address} (mail: port {standIns.MailPort})");
await standIns.WaitAsync();
