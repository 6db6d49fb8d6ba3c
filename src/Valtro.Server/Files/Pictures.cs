using SkiaSharp;

namespace Valtro.Server.Files;

/// <summary>Which part of a picture is kept, as shares of its width and height.</summary>
internal readonly record struct Crop(double X, double Y, double Width, double Height)
{
    public bool IsValid => X >= 0 && Y >= 0 && Width > 0 && Height > 0 && X + Width <= 1.001 && Y + Height <= 1.001;
}

/// <summary>
/// Makes banners of pictures: cropped, made smaller, and written anew, so that nothing of the file it came from is left
/// but what is seen: no place, no person, no program.
/// </summary>
internal static class Pictures
{
    public const string MediaType = "image/jpeg";

    /// <summary>Width and height of a banner.</summary>
    public const double Ratio = 2.5;

    private const int LargeWidth = 1600;
    private const int SmallWidth = 640;
    private const int Quality = 84;
    private const long MaxPixels = 80_000_000;

    /// <summary>The large and the small banner.</summary>
    /// <param name="contents">A picture as cameras and programs write it.</param>
    /// <param name="crop">What is kept; brought to the banner's proportions around its middle.</param>
    /// <exception cref="InvalidInputException"><c>picture_broken</c>, <c>picture_too_large</c>.</exception>
    public static (byte[] Large, byte[] Small) Banner(Stream contents, Crop crop)
    {
        using var data = SKData.Create(contents);
        using var codec = data is null ? null : SKCodec.Create(data);
        if (codec is null)
            throw Broken();
        if ((long)codec.Info.Width * codec.Info.Height > MaxPixels)
            throw new InvalidInputException("picture_too_large", "picture", $"The picture has {codec.Info.Width} × {codec.Info.Height} dots; make it smaller than 80 million.");
        using var bitmap = new SKBitmap(codec.Info.WithColorType(SKColorType.Rgba8888).WithAlphaType(SKAlphaType.Premul));
        if (codec.GetPixels(bitmap.Info, bitmap.GetPixels()) is not (SKCodecResult.Success or SKCodecResult.IncompleteInput))
            throw Broken();
        using var upright = Upright(bitmap, codec.EncodedOrigin);
        var part = Part(upright.Width, upright.Height, crop);
        return (Draw(upright, part, LargeWidth), Draw(upright, part, SmallWidth));
    }

    /// <summary>The part in dots, with a banner's proportions and no wider than what was chosen.</summary>
    private static SKRect Part(int width, int height, Crop crop)
    {
        var (w, h) = (crop.Width * width, crop.Height * height);
        var (x, y) = (crop.X * width + w / 2, crop.Y * height + h / 2);
        if (w / h > Ratio)
            w = h * Ratio;
        else
            h = w / Ratio;
        return SKRect.Create((float)(x - w / 2), (float)(y - h / 2), (float)w, (float)h);
    }

    private static byte[] Draw(SKBitmap from, SKRect part, int width)
    {
        // Nothing is gained by drawing more dots than there are.
        width = Math.Max(1, Math.Min(width, (int)part.Width));
        var height = Math.Max(1, (int)Math.Round(width / Ratio));
        using var surface = SKSurface.Create(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        surface.Canvas.Clear(SKColors.White);
        using var image = SKImage.FromBitmap(from);
        surface.Canvas.DrawImage(image, part, SKRect.Create(width, height), new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear));
        using var drawn = surface.Snapshot();
        using var encoded = drawn.Encode(SKEncodedImageFormat.Jpeg, Quality);
        return encoded.ToArray();
    }

    /// <summary>Turned as its camera says it was held.</summary>
    private static SKBitmap Upright(SKBitmap bitmap, SKEncodedOrigin origin)
    {
        var (w, h) = (bitmap.Width, bitmap.Height);
        var isTurned = origin is SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightTop or SKEncodedOrigin.RightBottom or SKEncodedOrigin.LeftBottom;
        var upright = new SKBitmap(isTurned ? h : w, isTurned ? w : h);
        using var canvas = new SKCanvas(upright);
        canvas.Clear(SKColors.White);
        canvas.SetMatrix(origin switch
        {
            SKEncodedOrigin.TopRight => new SKMatrix(-1, 0, w, 0, 1, 0, 0, 0, 1),
            SKEncodedOrigin.BottomRight => new SKMatrix(-1, 0, w, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.BottomLeft => new SKMatrix(1, 0, 0, 0, -1, h, 0, 0, 1),
            SKEncodedOrigin.LeftTop => new SKMatrix(0, 1, 0, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightTop => new SKMatrix(0, -1, h, 1, 0, 0, 0, 0, 1),
            SKEncodedOrigin.RightBottom => new SKMatrix(0, -1, h, -1, 0, w, 0, 0, 1),
            SKEncodedOrigin.LeftBottom => new SKMatrix(0, 1, 0, -1, 0, w, 0, 0, 1),
            _ => SKMatrix.Identity,
        });
        canvas.DrawBitmap(bitmap, 0, 0, SKSamplingOptions.Default);
        return upright;
    }

    private static InvalidInputException Broken() =>
        new("picture_broken", "picture", "This picture cannot be read. Save it once more as JPEG or PNG and try again.");
}
