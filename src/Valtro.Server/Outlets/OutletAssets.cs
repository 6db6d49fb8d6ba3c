using System.Text.Json;

namespace Valtro.Server.Outlets;

/// <summary>The addresses of the visitors' script and style, from the manifest of their build.</summary>
public sealed class OutletAssets
{
    public OutletAssets(ServerSettings settings)
    {
        var manifest = Path.Combine(settings.WebFolder, "outlet", ".vite", "manifest.json");
        if (!File.Exists(manifest))
            return;
        using var json = JsonDocument.Parse(File.ReadAllBytes(manifest));
        foreach (var entry in json.RootElement.EnumerateObject().Where(e => e.Value.TryGetProperty("isEntry", out var isEntry) && isEntry.GetBoolean()))
        {
            Script = "/outlet/" + entry.Value.GetProperty("file").GetString();
            if (entry.Value.TryGetProperty("css", out var styles))
                Style = "/outlet/" + styles[0].GetString();
        }
    }

    /// <summary>Null when the interface has not been built: the list is readable without.</summary>
    public string? Script { get; }

    public string? Style { get; }
}
