using System.Globalization;
using Xunit;

namespace Relevo.Core.Tests;

public sealed class SharedTextsTests
{
    [Fact]
    public void Equal_texts_under_a_name_are_one_string()
    {
        var shared = new SharedTexts();
        var first = shared.Of("title").Keep("Vet".AsSpan());
        Assert.Same(first, shared.Of("title").Keep("Vet".AsSpan()));
        Assert.Same(first, shared.Of("title").Keep(new string(['V', 'e', 't'])));
        Assert.NotSame(first, shared.Of("department").Keep("Vet".AsSpan()));
    }

    [Fact]
    public void Names_are_kept_apart_by_their_case_and_given_as_one_string()
    {
        var shared = new SharedTexts();
        Assert.Same(shared.Of("title").Name, shared.Of("title").Name);
        Assert.NotEqual(shared.Of("title").Name, shared.Of("Title").Name);
    }

    [Fact]
    public void Texts_that_are_nearly_all_different_are_no_longer_kept_and_still_right()
    {
        var ids = new SharedTexts().Of("uid");
        for (var number = 0; number < 5000; number++) Assert.Equal(Id(number), ids.Keep(Id(number).AsSpan()));
        Assert.NotSame(ids.Keep("again".AsSpan()), ids.Keep("again".AsSpan()));
    }

    [Fact]
    public void Texts_that_often_repeat_are_kept_however_many_there_are()
    {
        var places = new SharedTexts().Of("place");
        for (var number = 0; number < 20_000; number++) places.Keep(Id(number / 4).AsSpan());
        Assert.Same(places.Keep(Id(4999).AsSpan()), places.Keep(Id(4999).AsSpan()));
    }

    [Fact]
    public void Nothing_is_nothing() => Assert.Same("", new SharedTexts().Of("title").Keep(ReadOnlySpan<char>.Empty));

    private static string Id(int number) => string.Create(CultureInfo.InvariantCulture, $"p{number}");
}
