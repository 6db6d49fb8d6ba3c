using System.Text.Json;
using Valtro.Core.Publishing;

namespace Valtro.Server.Outlets;

/// <summary>A script with its styles.</summary>
/// <param name="Script">Its address; null when the interface has not been built: lists are readable without.</param>
/// <param name="Styles">The addresses of its styles.</param>
public sealed record OutletBundle(string? Script, IReadOnlyList<string> Styles);

/// <summary>The addresses of the visitors' scripts and styles, from the manifest of their build.</summary>
public sealed class OutletAssets
{
    private readonly Dictionary<string, string> texts = [];

    public OutletAssets(ServerSettings settings)
    {
        var manifest = Path.Combine(settings.WebFolder, "outlet", ".vite", "manifest.json");
        if (!File.Exists(manifest))
            return;
        using var json = JsonDocument.Parse(File.ReadAllBytes(manifest));
        var entries = json.RootElement;
        foreach (var language in Publication.Languages)
        {
            if (entries.TryGetProperty($"src/outlet/texts/{language}.json", out var file))
                texts[language] = AddressOf(file);
        }
        Main = BundleOf(entries, "src/outlet/main.tsx");
        Wall = BundleOf(entries, "src/outlet/wall.tsx");
    }

    /// <summary>What pages and embeds run.</summary>
    public OutletBundle Main { get; } = new(null, []);

    /// <summary>What a screen on a wall runs.</summary>
    public OutletBundle Wall { get; } = new(null, []);

    /// <summary>What the script says in a language; fetched beside it.</summary>
    public string? Texts(string language) => texts.GetValueOrDefault(language);

    private static OutletBundle BundleOf(JsonElement entries, string name)
    {
        if (!entries.TryGetProperty(name, out var entry))
            return new OutletBundle(null, []);
        var styles = new List<string>();
        // What several scripts share comes before what is one's own.
        void Collect(JsonElement part)
        {
            foreach (var shared in part.TryGetProperty("imports", out var imports) ? imports.EnumerateArray() : default)
            {
                if (entries.TryGetProperty(shared.GetString()!, out var other))
                    Collect(other);
            }
            if (part.TryGetProperty("css", out var css))
                styles.AddRange(css.EnumerateArray().Select(s => "/outlet/" + s.GetString()));
        }

        Collect(entry);
        return new OutletBundle(AddressOf(entry), [.. styles.Distinct()]);
    }

    private static string AddressOf(JsonElement entry) => "/outlet/" + entry.GetProperty("file").GetString();
}
