using GateChain.Cli.Commands;

return await Root.RunAsync(args);
