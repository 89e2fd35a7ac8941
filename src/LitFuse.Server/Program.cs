Console.WriteLine();
