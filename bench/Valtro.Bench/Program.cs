BenchmarkSwitcher.FromAssembly(typeof(Program).Assembly).Run(args);
