namespace GateChain.EndToEnd.Console;

/// <summary>What a person did, counted.</summary>
sealed class Actions
{
    int _clicks,
        _drags,
        _keys,
        _texts;

    public int All => _clicks + _drags + _keys + _texts;

    public void Click() => _clicks++;

    public void Drag() => _drags++;

    public void Key() => _keys++;

    public void Text() => _texts++;

    public override string ToString() =>
        $"{All} actions: {_clicks} clicks, {_drags} drags, {_keys} keys, {_texts} texts typed";
}
