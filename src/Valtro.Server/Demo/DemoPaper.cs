using System.Globalization;
using System.Text;
using SkiaSharp;

namespace Valtro.Server.Demo;

/// <summary>Draws the demo school's picture and writes its papers.</summary>
internal static class DemoPaper
{
    /// <summary>A harbour at evening: sky, water, a lighthouse and boats.</summary>
    public static byte[] Harbour()
    {
        const int width = 1600, height = 640, shore = 420;
        using var surface = SKSurface.Create(new SKImageInfo(width, height));
        var canvas = surface.Canvas;
        void Fill(string colour, Action<SKPaint> draw)
        {
            using var paint = new SKPaint { Color = SKColor.Parse(colour), IsAntialias = true };
            draw(paint);
        }

        void Shape(string colour, params (float X, float Y)[] points)
        {
            using var path = SKPath.ParseSvgPathData("M " + string.Join(" L ", points.Select(p => string.Create(CultureInfo.InvariantCulture, $"{p.X} {p.Y}"))) + " Z");
            Fill(colour, paint => canvas.DrawPath(path, paint));
        }

        canvas.Clear(SKColor.Parse("#f3d9b1"));
        Fill("#e9b872", p => canvas.DrawRect(0, 220, width, shore - 220, p));
        Fill("#f8ecd4", p => canvas.DrawCircle(1180, 300, 74, p));
        Fill("#2f6f73", p => canvas.DrawRect(0, shore, width, height - shore, p));
        Fill("#f8ecd4", p => canvas.DrawRect(1110, shore + 30, 140, 6, p));
        Fill("#f8ecd4", p => canvas.DrawRect(1140, shore + 70, 90, 6, p));
        Shape("#3b4a44", (0, shore), (0, 330), (180, 300), (420, 380), (560, shore));
        Shape("#fffdf8", (236, 330), (246, 130), (284, 130), (294, 330));
        Shape("#a3341f", (241, 230), (243, 190), (287, 190), (289, 230));
        Shape("#3b4a44", (238, 130), (265, 96), (292, 130));
        foreach (var (x, size, sail) in new[] { (620f, 1f, "#fffdf8"), (860f, 1.5f, "#b86e00"), (1380f, 0.8f, "#fffdf8") })
        {
            var y = shore + 40 * size;
            Shape("#4a2f1f", (x - 90 * size, y), (x + 90 * size, y), (x + 60 * size, y + 40 * size), (x - 70 * size, y + 40 * size));
            Shape("#4a2f1f", (x - 3 * size, y), (x - 3 * size, y - 200 * size), (x + 3 * size, y - 200 * size), (x + 3 * size, y));
            Shape(sail, (x + 8 * size, y - 14 * size), (x + 8 * size, y - 190 * size), (x + 84 * size, y - 14 * size));
            Shape(sail, (x - 8 * size, y - 14 * size), (x - 8 * size, y - 150 * size), (x - 70 * size, y - 14 * size));
        }
        using var image = surface.Snapshot();
        using var png = image.Encode(SKEncodedImageFormat.Png, 100);
        return png.ToArray();
    }

    /// <summary>A page with a heading and a line to sign.</summary>
    public static byte[] Pdf(string name, string title)
    {
        using var stream = new MemoryStream();
        using (var document = SKDocument.CreatePdf(stream, new SKDocumentPdfMetadata { Title = name, Creation = null }))
        {
            var canvas = document.BeginPage(595, 842);
            using var ink = new SKPaint { Color = SKColor.Parse("#22302c"), IsAntialias = true, StrokeWidth = 1 };
            // No font is asked for: the machine may have none. A form has lines to write on.
            for (var y = 160; y < 700; y += 60)
                canvas.DrawLine(72, y, 523, y, ink);
            canvas.DrawRect(72, 72, 40 + 6 * Encoding.UTF8.GetByteCount(title), 4, ink);
            document.EndPage();
            document.Close();
        }
        return stream.ToArray();
    }
}
