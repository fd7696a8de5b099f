using System.Xml.Linq;
using Microsoft.AspNetCore.DataProtection.Repositories;
using Relevo.Data;

namespace Relevo.Server.Hosting;

/// <summary>Lets the framework keep its key ring in the database, shared by all server processes.</summary>
internal sealed class KeyRing(DataProtectionKeyStore store) : IXmlRepository
{
    public IReadOnlyCollection<XElement> GetAllElements() => [.. store.ReadAll().Select(xml => XElement.Parse(xml))];

    public void StoreElement(XElement element, string friendlyName) => store.Keep(friendlyName, element.ToString(SaveOptions.DisableFormatting));
}
