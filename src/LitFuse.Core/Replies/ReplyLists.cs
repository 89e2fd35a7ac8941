namespace LitFuse.Core.Replies;

/// <summary>
/// The words that replies are read by: English, German, French, Spanish, Italian, Dutch, Portuguese, Polish, Swedish,
/// Danish. Small letters, no accents, as <see cref="Texts.Tokens"/> cuts them.
/// </summary>
public static class ReplyLists
{
    /// <summary>Agreement, where a message begins with it.</summary>
    public static PhraseList Yes { get; } =
        new(
            "yes, yeah, yep, yup, yea, yess, y, ok, okay, k, kk, sure, sure thing, of course, absolutely, definitely, certainly, sounds good, sounds great, sounds perfect, perfect, great, that is fine, thats fine, that works, that works for me, works for me",
            "go ahead, do it, lets do it, lets go, im in, i am in, count me in, we are in, agreed, i agree, correct, confirmed, confirm, i confirm, no problem, no problem at all, no worries, see you, see you then, see you there, ill be there, we will be there, i will be there",
            "happy to, id love to, i would love to, id love that, why not, thumbsup, fine by me, fine with me, fine, all good, will do, deal, you bet, suits me, cool, i am interested, im interested, interested, very interested, still interested, im still interested, we are interested",
            "i do, we do, it does, it is, i am, we are, by all means, right, exactly, affirmative, ready, i accept, accepted, i would, i can, we can, that suits, that suits me, that suits us, ja tak",
            "ja, jawohl, jep, jo, klar, na klar, gerne, sehr gerne, naturlich, einverstanden, passt, das passt, passt mir, passt gut, in ordnung, selbstverstandlich, auf jeden fall, perfekt, kein problem, genau, abgemacht, bin dabei, ich bin dabei, wir sind dabei, super, geht klar, alles klar, machen wir, ja klar, ja gerne, bestatigt, ich bestatige, freue mich, bis dann",
            "oui, ouais, d accord, volontiers, bien sur, avec plaisir, parfait, ca marche, ca me va, cela me convient, ca me convient, pas de probleme, pas de souci, pas de soucis, tout a fait, entendu, je confirme, absolument, carrement, evidemment, c est bon, c est d accord, bonne idee, c est parfait, je suis interesse, je suis interessee, toujours interesse, impeccable, nickel, avec joie",
            "si, sii, claro, claro que si, por supuesto, vale, de acuerdo, perfecto, me parece bien, sin problema, con gusto, con mucho gusto, esta bien, correcto, confirmado, confirmo, desde luego, me interesa, si me interesa, me viene bien, genial, dale, ningun problema, adelante, estoy interesado, estoy interesada, me apunto, encantado, encantada, nos vemos",
            "certo, certamente, va bene, va benissimo, d accordo, perfetto, volentieri, con piacere, nessun problema, confermo, mi va bene, ottimo, assolutamente, assolutamente si, sono interessato, sono interessata, certo che si, ci sto, benissimo, a presto, ci vediamo, si certo",
            "ja hoor, graag, ja graag, heel graag, prima, akkoord, is goed, dat is goed, geen probleem, natuurlijk, zeker, zeker weten, doe maar, tot dan, oke, oki, komt goed, past mij, dat past, dat komt uit, top, ik ben geinteresseerd, uitstekend, helemaal goed, mee eens, ik doe mee",
            "sim, com certeza, pode ser, tudo bem, esta bem, perfeito, combinado, sem problema, sem problemas, beleza, com prazer, quero sim, quero, otimo, ta bom, isso, isso mesmo, pode, tenho interesse, estou interessado, estou interessada, fechado, vamos",
            "tak, jasne, oczywiscie, pewnie, zgoda, dobrze, zgadzam sie, pasuje, pasuje mi, chetnie, bardzo chetnie, nie ma problemu, nie ma sprawy, potwierdzam, swietnie, okej, w porzadku, jestem zainteresowany, jestem zainteresowana, super pasuje, jak najbardziej, do zobaczenia",
            "japp, absolut, garna, ja garna, sjalvklart, det gar bra, inga problem, visst, toppen, det passar, gerne, ja gerne, selvfolgelig, det er fint, intet problem, det passer, det passer fint, helt sikkert, fint, jatte garna, bekraftar, jeg bekraefter"
        );

    /// <summary>Refusal, where a message begins with it.</summary>
    public static PhraseList No { get; } =
        new(
            "no, nope, nah, n, noo, not interested, not really, not now, not today, not anymore, not any more, no longer interested, im not interested, i am not interested, we are not interested, were not interested, im no longer interested, i am no longer interested, never, no way, cannot, i cant, cant, i cannot, we cant, we cannot, cant make it, sorry no",
            "dont think so, i dont think so, not for me, not for us, not for now, not at the moment, not this time, not at all, rather not, id rather not, i would rather not, ill pass, i will pass, well pass, changed my mind, i changed my mind, ive changed my mind, i have changed my mind, weve changed our minds, unfortunately not, unfortunately no, im afraid not, thumbsdown, decline, i decline, we decline, declined, no need, not needed, no interest, i dont want, i do not want, we dont want, dont want it, no longer needed, nej tak, i am not, im not, i do not, i dont, negative, doesnt work, does not work, that doesnt work, it doesnt suit, that does not suit",
            "nein, ne, nee, nein nein, kein interesse, wir haben kein interesse, ich habe kein interesse, habe kein interesse, kein bedarf, keinen bedarf, leider nein, leider nicht, nicht, eher nicht, lieber nicht, passt nicht, passt mir nicht, passt leider nicht, geht nicht, geht leider nicht, das passt nicht, das passt mir nicht, das geht nicht, auf keinen fall, nicht mehr, nicht interessiert, bin nicht interessiert, ich bin nicht interessiert, hat sich erledigt, kann nicht, ich kann nicht, ich kann leider nicht, jetzt nicht, im moment nicht, brauche ich nicht, nicht notig",
            "non, pas interesse, pas interessee, pas interesses, ca ne m interesse pas, cela ne m interesse pas, je ne suis pas interesse, je ne suis pas interessee, je ne suis plus interesse, je ne suis plus interessee, nous ne sommes pas interesses, plus interesse, plus interessee, pas du tout, pas maintenant, pas pour le moment, pour le moment non, malheureusement non, malheureusement pas, je ne peux pas, plus besoin, pas besoin, je n ai plus besoin, nous n avons plus besoin, je prefere pas, sans facon, pas cette fois, jamais, je refuse, ca ne va pas, ca ne me convient pas",
            "no me interesa, ya no me interesa, no estoy interesado, no estoy interesada, no estamos interesados, no puedo, no podemos, ya no, para nada, de ninguna manera, por ahora no, de momento no, mejor no, tampoco, nunca, no hace falta, no me viene bien, no quiero, lamentablemente no, no es necesario, no nos interesa",
            "non mi interessa, non sono interessato, non sono interessata, non siamo interessati, non posso, non possiamo, per niente, purtroppo no, non piu, meglio di no, non serve, non ora, per ora no, non adesso, non fa per me, non ci interessa, non mi serve, direi di no, non voglio, non mi va bene",
            "neen, geen interesse, geen belangstelling, niet geinteresseerd, ik ben niet geinteresseerd, we zijn niet geinteresseerd, helaas niet, liever niet, lukt niet, dat lukt niet, lukt helaas niet, kan niet, niet meer nodig, niet nodig, nee hoor, hoeft niet, hoeft niet meer, ik kan niet, ik kan helaas niet, nu niet, niet meer, komt niet uit, dat komt niet uit, nooit, geen behoefte, even niet",
            "nao, nao tenho interesse, nao estou interessado, nao estou interessada, sem interesse, nao posso, nao podemos, agora nao, por enquanto nao, infelizmente nao, de jeito nenhum, nao quero, nem pensar, nao preciso, nao precisa, nao da, nao tenho mais interesse, nao me interessa, nunca mais, melhor nao",
            "nie, nie jestem zainteresowany, nie jestem zainteresowana, nie jestesmy zainteresowani, niestety nie, raczej nie, nie moge, nie mozemy, nie teraz, juz nie, rezygnuje, rezygnujemy, brak zainteresowania, nie trzeba, nie pasuje, nie pasuje mi, nie potrzebuje, absolutnie nie, niestety nie moge, nie chce, na razie nie",
            "nej, inte intresserad, jag ar inte intresserad, tyvarr inte, tyvarr nej, kan inte, jag kan inte, inte nu, inte langre, ikke interesseret, jeg er ikke interesseret, desvaerre ikke, desvaerre nej, kan ikke, jeg kan ikke, ikke nu, aldrig, behovs inte, ikke laengere"
        );

    /// <summary>What turns a yes or a no into something that a person must read.</summary>
    public static IReadOnlySet<string> Turns { get; } =
        new HashSet<string>(StringComparer.Ordinal)
        {
            "but",
            "if",
            "unless",
            "maybe",
            "perhaps",
            "depends",
            "although",
            "however",
            "until",
            "except",
            "instead",
            "aber",
            "wenn",
            "falls",
            "vielleicht",
            "sondern",
            "nur",
            "jedoch",
            "mais",
            "peut",
            "sauf",
            "seulement",
            "pero",
            "quizas",
            "quiza",
            "salvo",
            "solo",
            "ma",
            "forse",
            "pero",
            "se",
            "maar",
            "misschien",
            "als",
            "mas",
            "talvez",
            "ale",
            "moze",
            "jesli",
            "chyba",
            "men",
            "kanske",
            "maske",
            "hvis",
            "om",
            "sino",
            "however",
            "later",
            "spater",
            "otherwise",
            "only",
            "idea",
        };

    /// <summary>
    /// Short words of agreement that also stand after a refusal and do not turn it: <c>no, it is fine</c>.
    /// </summary>
    public static IReadOnlySet<string> Weak { get; } =
        new HashSet<string>(StringComparer.Ordinal)
        {
            "ok",
            "okay",
            "k",
            "fine",
            "great",
            "perfect",
            "cool",
            "right",
            "it is",
            "super",
            "prima",
            "top",
            "fint",
            "i am",
            "we are",
            "it does",
            "i do",
            "we do",
            "ready",
            "exactly",
            "i can",
            "we can",
            "i would",
            "interested",
            "quero",
            "pode",
            "vamos",
            "isso",
            "ne",
            "n",
            "y",
            "vale",
            "bra",
            "deal",
            "si",
            "nicht",
            "i do not",
            "i dont",
            "right",
        };

    private static readonly PhraseList Polite = new(
        "hi, hello, hey, dear, thanks, thank you, thank you very much, thanks a lot, many thanks, thx, ty, please, pls, plz, cheers, good morning, good evening, good afternoon, sorry, oh, um, well, hiya, kind regards, regards, so much, very much",
        "bitte, danke, danke schon, vielen dank, hallo, guten tag, guten morgen, moin, servus, mfg, sehr, schon, sorry, lg, herzlichen dank",
        "merci, merci beaucoup, bonjour, bonsoir, salut, s il vous plait, svp, stp, s il te plait, cordialement, madame, monsieur, desole, desolee",
        "gracias, muchas gracias, mil gracias, hola, por favor, buenos dias, buenas tardes, buenas, saludos, lo siento, un saludo",
        "grazie, grazie mille, ciao, buongiorno, buonasera, per favore, salve, mi dispiace, cordiali saluti, tante grazie",
        "dank je, dank je wel, dank u, dank u wel, dankjewel, bedankt, hoi, hallo, dag, goedemorgen, goedemiddag, alstublieft, alsjeblieft, aub, groetjes, groet, sorry, hartelijk dank",
        "obrigado, obrigada, muito obrigado, muito obrigada, ola, oi, bom dia, boa tarde, desculpe, por gentileza, abraco, valeu",
        "dziekuje, dziekuje bardzo, dzieki, dzien dobry, prosze, czesc, witam, pozdrawiam, przepraszam, dziekujemy",
        "tack, tack sa mycket, hej, snalla, mange tak, venlig hilsen, tusen takk, tusind tak, undskyld, mvh"
    );

    // A message that is one of these and nothing else (the words that carriers know, CTIA Short Code Monitoring, and
    // their translations).
    private static readonly PhraseList StopWhole = new(
        "stop, stopall, stop all, unsubscribe, cancel, end, quit, optout, opt out, revoke, stopp, arret, arrete, arretez, abmelden, austragen, baja, alto, parar, pare, sair, basta, afmelden, uitschrijven, wypisz, koniec, stopsign, avsluta, afmeld, stop now, stop it, stop this, just stop, ok stop, stop stop, stop stop stop, please stop, stop please, detener, cancelar, annulla, cancella, disiscrivi, resilier, aufhoren, ende, stoppen, fim, dejar, sluta"
    );

    private static readonly PhraseList StopAnywhere = new(
        "unsubscribe, unsubscribe me, stop texting, stop messaging, stop sending, stop contacting, stop calling, stop writing, stop bothering, stop spamming, stop these, stop the texts, stop all messages, stop all texts, do not text, dont text me, dont text, do not contact, dont contact me, dont contact, do not message, dont message me, stop sms, never text me, never contact me, do not call me, dont write to me",
        "take me off, remove me, remove my number, delete my number, delete my details, delete my data, opt me out, opt out, leave me alone, no more texts, no more messages, no more sms, no more emails, lose my number, quit texting, quit messaging, erase my",
        "keine nachrichten mehr, keine sms mehr, keine weiteren nachrichten, keine weiteren sms, nicht mehr schreiben, schreiben sie mir nicht mehr, schreibt mir nicht mehr, schreib mir nicht mehr, nicht mehr kontaktieren, kontaktieren sie mich nicht, lassen sie mich in ruhe, lasst mich in ruhe, horen sie auf, hort auf, nummer loschen, daten loschen, loschen sie meine, abbestellen, vom verteiler, von der liste, keine werbung mehr",
        "desabonner, desinscrire, desinscrivez moi, desabonnez moi, me desabonner, me desinscrire, desinscription, desabonnement, plus de messages, plus de sms, plus de message, ne m ecrivez plus, ne m envoyez plus, ne me contactez plus, ne plus me contacter, ne plus recevoir, arretez de m, arreter de m, arretez les, cessez de, supprimez mon, supprimer mon, laissez moi tranquille, retirez moi, fichez moi la paix",
        "no me escriban mas, no me escriba mas, no me escribas mas, no mas mensajes, no mas sms, no quiero mas mensajes, no quiero recibir, dejen de, deje de, deja de, darme de baja, denme de baja, deme de baja, dar de baja, quitenme de, quiteme de, borren mi, borre mi, eliminen mi, dejenme en paz, no me contacten, no me manden mas, no me envien mas, paren de",
        "cancellatemi, cancellami, cancellate il mio, non scrivetemi piu, non mi scrivete piu, non mi scriva piu, non voglio piu ricevere, basta messaggi, basta sms, disiscrivimi, disiscrivetemi, toglietemi, rimuovetemi, lasciatemi in pace, smettetela, smettete di, non contattatemi, niente piu messaggi, non mandatemi",
        "geen berichten meer, geen sms meer, geen smsjes meer, stuur me niets meer, stuur mij niets meer, stuur niets meer, niet meer sturen, schrijf me uit, schrijf mij uit, verwijder mijn, haal me van, haal mij van, laat me met rust, laat mij met rust, stop met sturen, stop met berichten, niet meer benaderen, niet meer contacteren, neem geen contact",
        "nao me mande mais, nao me mandem mais, nao me envie mais, nao me enviem mais, parem de, pare de, remova meu, remover meu, removam meu, remova o meu, me tire da, me tirem da, tire me da, sem mais mensagens, nao quero mais mensagens, nao quero mais receber, nao quero receber, descadastrar, me descadastre, cancelar inscricao, deixem me em paz, me deixe em paz, chega de mensagens",
        "nie piszcie, nie pisz do mnie, prosze nie pisac, nie pisac, nie wysylajcie, prosze nie wysylac, nie wysylac, wypisz mnie, wypiszcie mnie, prosze mnie wypisac, mnie wypisac, wypisac mnie, usuncie moj, prosze usunac moj, usun moj, przestancie, prosze przestac, dajcie mi spokoj, nie kontaktujcie, rezygnuje z wiadomosci, zadnych wiadomosci",
        "avregistrera, avprenumerera, sluta skicka, sluta skriva, inga fler meddelanden, inga fler sms, ta bort mig, ta bort mitt, lamna mig ifred, afmeld mig, ikke flere beskeder, ikke flere sms, slet mit, slet mig, stop med at skrive, lad mig vaere"
    );

    private static readonly PhraseList Asks = new(
        "what, whats, what is, when, when is, where, wheres, who, whos, how, hows, why, which, whose, can i, can you, can we, could i, could you, could we, do you, do i, do we, is it, is there, is this, is that, are you, are there, will it, will you, will there, does it, does the, may i, would it, would you, should i, have you, any chance, question, i have a question, quick question, wondering, i was wondering, just wondering",
        "was, wann, wo, wer, wie, warum, wieso, welche, welcher, welches, wieviel, konnen sie, kann ich, kann man, konnten sie, haben sie, gibt es, ist das, ist es, sind sie, muss ich, darf ich, frage, eine frage, ich habe eine frage, ich hatte eine frage",
        "quand, comment, pourquoi, combien, quel, quelle, quels, quelles, est ce que, est ce, pouvez vous, puis je, peut on, avez vous, faut il, y a t il, c est quoi, qu est ce, ou est, ou se, ou sont, une question, j ai une question, c est combien, c est quand",
        "cuando, donde, como, cuanto, cuanta, cuantos, cuantas, cual, cuales, quien, por que, puedo, puede, pueden, podria, podrian, tienen, hay, una pregunta, tengo una pregunta, que precio, que hora, que dia, a que hora",
        "quando, dove, quanto, quanta, quanti, quale, quali, chi, perche, posso, potete, potrebbe, avete, c e, una domanda, ho una domanda, come funziona, come faccio, come posso, a che ora, che ora, che giorno, quanto costa",
        "wat, wanneer, waar, hoe, hoeveel, waarom, welke, wie, kan ik, kunt u, kunnen jullie, kunnen we, hebben jullie, heeft u, is er, is het, mag ik, moet ik, vraag, een vraag, ik heb een vraag, vraagje",
        "onde, qual, quais, quem, por que, porque, voces, tem como, da pra, poderia, uma pergunta, tenho uma pergunta, uma duvida, tenho uma duvida, quanto custa, que horas, que dia",
        "kiedy, gdzie, jak, ile, czy, dlaczego, ktory, ktora, jaki, jaka, jakie, kto, co, mam pytanie, pytanie",
        "vad, nar, var, hur, varfor, vilken, kan jag, kan ni, finns det, hvad, hvornar, hvor, hvordan, hvorfor, hvilken, kan jeg, kan i, er der, en fraga, et sporgsmal"
    );

    /// <summary>The phrase by which they want no more messages, or <c>null</c>.</summary>
    public static string? StopIn(IReadOnlyList<string> words)
    {
        var (anywhere, _, _) = StopAnywhere.In(words);
        if (anywhere is not null)
            return anywhere;
        if (words.Count <= 6 && StopWhole.Has(string.Join(' ', words)))
            return string.Join(' ', words);
        var rest = WithoutPolite(words);
        return rest.Count is > 0 and <= 4 && StopWhole.Has(string.Join(' ', rest)) ? string.Join(' ', rest) : null;
    }

    /// <summary>The word by which they ask something, at the beginning of what they say, or <c>null</c>.</summary>
    public static string? QuestionIn(IReadOnlyList<string> words)
    {
        var rest = WithoutPolite(words);
        if (rest.Count < 2)
            return null;
        var start = rest[0] is "and" or "so" or "und" or "et" or "y" or "e" or "en" or "ok" or "i" or "och" or "og"
            ? 1
            : 0;
        if (rest.Count - start < 2 || rest[start] == "why" && rest[start + 1] == "not")
            return null;
        return Asks.At(rest, start).Phrase;
    }

    /// <summary>The words without greetings and thanks.</summary>
    public static List<string> WithoutPolite(IReadOnlyList<string> words)
    {
        var rest = new List<string>(words.Count);
        for (var i = 0; i < words.Count; )
        {
            var (polite, n) = Polite.At(words, i);
            if (polite is null)
                rest.Add(words[i++]);
            else
                i += n;
        }

        return rest;
    }
}
