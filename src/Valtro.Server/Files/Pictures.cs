using System.Threading.RateLimiting;
using NodaTime;
using SkiaSharp;
using Valtro.Server.Api;

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
    // Of what is decoded in full, four bytes a dot are held at once: a banner takes no more than some 100 MB.
    private const long MaxDots = 24_000_000;

    // What its codec decodes smaller than it is may have more: a telephone's camera makes 50 million.
    private const long MaxScaledDots = 52_000_000;

    // Twice what is drawn, so that edges stay clean when it is made smaller.
    private const float Spare = 2;

    // One at a time, whoever sends them: how many are sent at once decides about nobody's memory.
    private static readonly ConcurrencyLimiter Queue = new(new ConcurrencyLimiterOptions { PermitLimit = 1, QueueLimit = 16, QueueProcessingOrder = QueueProcessingOrder.OldestFirst });

    /// <summary>The large and the small banner, made when it is its turn.</summary>
    /// <param name="contents">A picture as cameras and programs write it.</param>
    /// <param name="crop">What is kept; brought to the banner's proportions around its middle.</param>
    /// <param name="cancellation">Nobody waits for it any more.</param>
    /// <exception cref="InvalidInputException"><c>picture_broken</c>, <c>picture_too_large</c>.</exception>
    /// <exception cref="TooOftenException">Too many wait already.</exception>
    public static async Task<(byte[] Large, byte[] Small)> BannerAsync(Stream contents, Crop crop, CancellationToken cancellation = default)
    {
        using var turn = await Queue.AcquireAsync(1, cancellation);
        return turn.IsAcquired ? await Task.Run(() => Banner(contents, crop), cancellation) : throw new TooOftenException(Duration.FromSeconds(10));
    }

    private static (byte[] Large, byte[] Small) Banner(Stream contents, Crop crop)
    {
        using var data = SKData.Create(contents);
        using var codec = data is null ? null : SKCodec.Create(data);
        if (codec is null)
            throw Broken();
        var info = codec.Info;
        var (fullWidth, fullHeight) = IsTurned(codec.EncodedOrigin) ? (info.Height, info.Width) : (info.Width, info.Height);
        var dots = (long)info.Width * info.Height;
        // In eighths, as JPEG is made smaller.
        var most = MathF.Floor(8 * MathF.Sqrt((float)MaxDots / dots)) / 8;
        var size = codec.GetScaledDimensions(Math.Min(Math.Min(1, Math.Max(most, 0.125f)), Spare * LargeWidth / Part(fullWidth, fullHeight, crop).Width));
        // Looked at before a dot is decoded: a few bytes can say that they are a billion.
        if (dots > MaxScaledDots || (long)size.Width * size.Height > MaxDots)
            throw new InvalidInputException("picture_too_large", "picture", $"The picture has {info.Width} × {info.Height} dots; make it smaller than {MaxDots / 1_000_000} million.");
        using var bitmap = new SKBitmap(info.WithSize(size.Width, size.Height).WithColorType(SKColorType.Rgba8888).WithAlphaType(SKAlphaType.Premul));
        if (codec.GetPixels(bitmap.Info, bitmap.GetPixels()) is not (SKCodecResult.Success or SKCodecResult.IncompleteInput))
            throw Broken();
        // What does not change any more is drawn from without being copied.
        bitmap.SetImmutable();
        using var image = SKImage.FromBitmap(bitmap);
        var (width, height) = IsTurned(codec.EncodedOrigin) ? (size.Height, size.Width) : (size.Width, size.Height);
        var part = Part(width, height, crop);
        var upright = Upright(size.Width, size.Height, codec.EncodedOrigin);
        return (Draw(image, upright, part, LargeWidth), Draw(image, upright, part, SmallWidth));
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

    private static byte[] Draw(SKImage image, SKMatrix upright, SKRect part, int width)
    {
        // Nothing is gained by drawing more dots than there are.
        width = Math.Max(1, Math.Min(width, (int)part.Width));
        var height = Math.Max(1, (int)Math.Round(width / Ratio));
        using var surface = SKSurface.Create(new SKImageInfo(width, height, SKColorType.Rgba8888, SKAlphaType.Opaque));
        surface.Canvas.Clear(SKColors.White);
        surface.Canvas.Scale(width / part.Width, height / part.Height);
        surface.Canvas.Translate(-part.Left, -part.Top);
        surface.Canvas.Concat(upright);
        surface.Canvas.DrawImage(image, 0, 0, new SKSamplingOptions(SKFilterMode.Linear, SKMipmapMode.Linear));
        using var drawn = surface.Snapshot();
        using var encoded = drawn.Encode(SKEncodedImageFormat.Jpeg, Quality);
        return encoded.ToArray();
    }

    private static bool IsTurned(SKEncodedOrigin origin) =>
        origin is SKEncodedOrigin.LeftTop or SKEncodedOrigin.RightTop or SKEncodedOrigin.RightBottom or SKEncodedOrigin.LeftBottom;

    /// <summary>How it is turned as its camera says it was held.</summary>
    private static SKMatrix Upright(int w, int h, SKEncodedOrigin origin) => origin switch
    {
        SKEncodedOrigin.TopRight => new SKMatrix(-1, 0, w, 0, 1, 0, 0, 0, 1),
        SKEncodedOrigin.BottomRight => new SKMatrix(-1, 0, w, 0, -1, h, 0, 0, 1),
        SKEncodedOrigin.BottomLeft => new SKMatrix(1, 0, 0, 0, -1, h, 0, 0, 1),
        SKEncodedOrigin.LeftTop => new SKMatrix(0, 1, 0, 1, 0, 0, 0, 0, 1),
        SKEncodedOrigin.RightTop => new SKMatrix(0, -1, h, 1, 0, 0, 0, 0, 1),
        SKEncodedOrigin.RightBottom => new SKMatrix(0, -1, h, -1, 0, w, 0, 0, 1),
        SKEncodedOrigin.LeftBottom => new SKMatrix(0, 1, 0, -1, 0, w, 0, 0, 1),
        _ => SKMatrix.Identity,
    };

    private static InvalidInputException Broken() =>
        new("picture_broken", "picture", "This picture cannot be read. Save it once more as JPEG or PNG and try again.");
}
