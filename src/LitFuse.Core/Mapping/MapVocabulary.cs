using LitFuse.Core.Texts;

namespace LitFuse.Core.Mapping;

/// <summary>
/// What the fields that people fill in everywhere are called, in the languages that forms come in: English, German,
/// French, Spanish, Italian, Portuguese, Dutch, Polish, Swedish, Danish, Norwegian, Finnish, Czech, Hungarian, Turkish,
/// Romanian, Russian and Japanese; and as programs shorten them. Written as <see cref="Tokens.Of"/> cuts them.
/// </summary>
public static class MapVocabulary
{
    /// <summary>Phrases by lead field, parted by commas.</summary>
    public static IReadOnlyDictionary<string, string> Phrases { get; } =
        new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["first_name"] = """
                first name, firstname, fname, given name, givenname, forename, first, name first, fore name, first nm, fst name, christian name, vorname, vname, prenom, nombre de pila, primer nombre, nome di battesimo, primeiro nome, voornaam, imie, fornamn, fornavn, etunimi,
                jmeno krestni, krestni jmeno, keresztnev, utonev, prenume, имя, 名, お名前 名, first given, nom de pila, tilltalsnamn, ad, isim adi
                """,
            ["last_name"] = """
                last name, lastname, lname, surname, family name, familyname, last, name last, sur name, last nm, sname, nachname, nname, familienname, zuname, nom de famille, apellido, apellidos, cognome, sobrenome, apelido, ultimo nome, achternaam, familienaam, nazwisko, efternamn,
                efternavn, etternavn, sukunimi, prijmeni, vezeteknev, csaladnev, soyad, soyadi, soyadiniz, soyisim, nume de familie, фамилия, 姓, 苗字, family
                """,
            ["full_name"] = """
                full name, fullname, name, complete name, whole name, person name, contact name, contact person, first and last name, first last name, name and surname, first name and last name, first name last name, full nm, cust name, vor und nachname, vorname und nachname, vorname nachname, vollstandiger name, ansprechpartner, ansprechperson,
                kontaktperson, nom complet, nom et prenom, prenom et nom, nom prenom, nombre completo, nombre y apellidos, nombre y apellido, nombre apellidos, nome completo, nome e cognome, nome cognome, nome e sobrenome, naam, volledige naam, voor en achternaam, contactpersoon, imie i nazwisko, imie nazwisko, for och efternamn, fornamn och efternamn, namn, fullstandigt namn,
                fulde navn, navn, for og efternavn, fullt navn, for og etternavn, nimi, koko nimi, etu ja sukunimi, jmeno a prijmeni, cele jmeno, teljes nev, nev, ad soyad, adi soyadi, adiniz soyadiniz, isim soyisim, tam ad, nume complet, nume si prenume, nume prenume, фио, имя и фамилия, полное имя, 氏名, お名前, 名前, ご氏名, your name, who, nombre, nome, nom, nume, jmeno, fio, whole nm, referente
                """,
            ["email"] = """
                email, e mail, mail, email address, emailaddress, e mail address, mail address, eml, emailaddr, email addr, emailadresse, e mail adresse, mailadresse, mail adresse, email adresse, adresse email, adresse e mail, adresse mail, courriel, adresse courriel, courrier electronique, adresse electronique, correo, correo electronico,
                direccion de correo, direccion de correo electronico, direccion de email, posta elettronica, indirizzo email, indirizzo e mail, indirizzo mail, indirizzo di posta elettronica, endereco de email, endereco de e mail, correio eletronico, emailadres, e mailadres, e mail adres, email adres, adres email, adres e mail, adres mailowy, poczta elektroniczna, epost, e post, e postadress, epostadress,
                mejl, mejladress, e postadresse, epostadresse, sahkoposti, sahkopostiosoite, emailova adresa, e mailova adresa, email cim, e mail cim, emailcim, e posta, eposta, e posta adresi, eposta adresi, adresa de email, adresa de e mail, adresa email, почта, электронная почта, эл почта, имейл, メール, メールアドレス, eメール, mail id, email id, em, mel
                """,
            ["phone"] = """
                phone, phone number, phonenumber, telephone, telephone number, tel, tel number, mobile, mobile number, mobilenumber, mobile phone, mobile phone number, cell, cell phone, cellphone, cell number, landline, contact number, ph, phn, phone nr, tel nr, tel no, mob, mob no, mobile no, phone no, msisdn, number to call, telefon, telefonnummer, tel nummer, rufnummer,
                telefon nummer, handy, handynummer, mobil, mobilnummer, mobiltelefon, mobilfunknummer, festnetz, ruckrufnummer, numero de telephone, num tel, portable, numero de portable, telephone portable, telephone mobile, numero de mobile, telefono, numero de telefono, movil, telefono movil, numero de movil, celular, telefono celular, numero de celular, numero di telefono, cellulare, numero di cellulare,
                recapito telefonico, telefone, numero de telefone, telemovel, numero de telemovel, telefoonnummer, telefoon, mobiele telefoon, mobiel nummer, mobiel, gsm, gsm nummer, numer telefonu, nr telefonu, nr tel, numer tel, telefon komorkowy, komorka, tel kom, telefonnr, mobiltelefonnummer, mobilnr, tlf, tlf nr, puhelin, puhelinnumero, matkapuhelin, kannykka, telefonni cislo, tel cislo, cislo telefonu, mobilni telefon, telefonszam, mobilszam, telefon numarasi, telefon numaraniz, cep telefonu, cep telefonu numarasi, gsm no, telefon no,
                numar de telefon, nr de telefon, телефон, номер телефона, мобильный телефон, мобильный, 電話番号, 電話, 携帯電話, 携帯番号, tel fixe, telephone fixe, mobilni, contact no, phone number to reach you, number to reach you, number we can reach you on
                """,
            ["company"] = """
                company, company name, companyname, business, business name, organisation, organization, organisation name, organization name, org, org name, employer, firm, firm name, company or organisation, company organisation, coy, comp name, co name, firma, firmenname, unternehmen, unternehmensname, name des unternehmens, name der firma, name ihres unternehmens, arbeitgeber, betrieb, societe, nom de la societe,
                nom de societe, entreprise, nom de l entreprise, nom de lentreprise, nom de votre entreprise, lentreprise, raison sociale, organisme, nom de votre societe, empresa, nombre de la empresa, nombre de empresa, nombre de su empresa, compania, razon social, negocio, azienda, nome azienda, nome dell azienda, nome dellazienda, societa, nome della societa, ragione sociale, nome da empresa, empresa ou organizacao, bedrijf, bedrijfsnaam, naam bedrijf, naam van uw bedrijf, organisatie, nazwa firmy, przedsiebiorstwo, foretag, foretagsnamn,
                foretagets namn, bolag, virksomhed, virksomhedens navn, virksomhedsnavn, firmanavn, bedrift, bedriftsnavn, yritys, yrityksen nimi, nazev firmy, nazev spolecnosti, spolecnost, cegnev, ceg, ceg neve, vallalkozas neve, sirket, sirket adi, sirketiniz, firma adi, firma adiniz, companie, numele companiei, nume firma, numele firmei, denumire firma, компания, название компании, организация, 会社名, 会社, 御社名, 貴社名, 企業名, company legal name, where do you work, who do you work for
                """,
            ["job_title"] = """
                job title, jobtitle, title job, role, job role, position, job position, occupation, profession, your role, function, position title, jobbezeichnung, berufsbezeichnung, beruf, stellenbezeichnung, funktion, position im unternehmen, poste, intitule du poste, fonction, metier, cargo, puesto, puesto de trabajo, profesion, ruolo, posizione, ruolo aziendale, mansione, posizione lavorativa, funcao, profissao, functie, functietitel, beroep,
                stanowisko, zawod, befattning, titel, jobbtitel, yrke, stilling, stillingsbetegnelse, jobtitel, tehtavanimike, ammatti, titteli, pozice, pracovni pozice, povolani, beosztas, foglalkozas, munkakor, pozisyon, unvan, meslek, gorev, functia, pozitia, должность, профессия, 役職, 職種, 肩書
                """,
            ["website"] = """
                website, web site, website url, website address, web address, webpage, homepage, home page, company website, url, site, site url, web, domain, webseite, internetseite, webadresse, internetadresse, site web, site internet, adresse du site, sitio web, pagina web, web de la empresa, sito, sito web, sito internet, pagina da web, pagina na internet, strona internetowa, strona www, adres strony, www, webbplats, hemsida, webbadress,
                hjemmeside, nettside, nettsted, verkkosivu, verkkosivusto, kotisivu, webova stranka, webove stranky, weboldal, honlap, web sitesi, internet sitesi, web sitesi adresi, site ul companiei, pagina de internet, сайт, веб сайт, адрес сайта, ウェブサイト, ホームページ, サイトurl
                """,
            ["street"] = """
                street, street address, address line 1, address line, address 1, addr 1, address, addr, postal address, mailing address, home address, delivery address, house number and street, street and number, street and house number, strasse, strasse und hausnummer, strasse hausnummer, strasse nr, anschrift, adresse, adresse postale, rue, numero et rue, numero et nom de rue, adresse ligne 1, direccion, direccion postal, calle, calle y numero, domicilio,
                indirizzo, via, via e numero civico, indirizzo postale, morada, endereco, rua, rua e numero, straat, straat en huisnummer, straatnaam, adres, ulica, ulica i numer, ulica i numer domu, gatuadress, gata, adress, vej, vejnavn, gade, gate, gateadresse, katuosoite, katu, osoite, ulice, ulice a cislo popisne, ulice a cislo, adresa, utca, utca hazszam, cim, cadde sokak, sokak, acik adres, strada, strada si numarul, улица, адрес, 住所, 番地, straße
                """,
            ["postcode"] = """
                postcode, post code, postal code, postalcode, zip, zip code, zipcode, zip postal code, zip or postal code, pcode, eircode, plz, postleitzahl, code postal, cp, codigo postal, c p, cap, codice di avviamento postale, codice postale, cep, kod pocztowy, postnummer, postnr, postinumero, psc, iranyitoszam, irsz, posta kodu, cod postal, индекс, почтовый индекс, 郵便番号
                """,
            ["city"] = """
                city, town, town city, city town, town or city, locality, municipality, stadt, ort, wohnort, stadt ort, ville, commune, localite, ciudad, localidad, poblacion, municipio, citta, comune, localita, cidade, localidade, concelho, stad, plaats, woonplaats, gemeente, miasto, miejscowosc, stad ort, postort, by, sted, poststed, kaupunki, paikkakunta, postitoimipaikka, mesto, obec, varos, telepules, sehir, il, oras, localitate, город, населенный пункт, 市区町村, 市町村
                """,
            ["region"] = """
                region, state, county, province, state province, state or province, province state, state region, bundesland, kanton, land kreis, departement, provincia, comunidad autonoma, estado, regione, distrito, provincie, wojewodztwo, powiat, lan, landskap, fylke, maakunta, kraj, okres, megye, bolge, ilce, judet, judetul, регион, область, край, 都道府県
                """,
            ["country"] = """
                country, country name, nation, country region, country of residence, land, staat, pays, pays de residence, pais, pais de residencia, paese, nazione, stato, kraj zamieszkania, kraj, panstwo, maa, zeme, stat, orszag, ulke, ulkeniz, tara, страна, 国, 国名
                """,
            ["message"] = """
                message, comments, comment, your message, enquiry, inquiry, question, questions, notes, note, additional information, additional info, additional comments, further information, anything else, anything else we should know, details, description, request, remarks, how can we help, how can we help you, what can we do for you, tell us more, tell us about your project, your question, msg, message body, body, project details, nachricht, ihre nachricht, mitteilung, anfrage, ihre anfrage, bemerkung, bemerkungen, kommentar, anmerkung, anmerkungen, anliegen, ihr anliegen, wie konnen wir ihnen helfen, wie konnen wir helfen, fragen, ihre frage,
                message texte, votre message, commentaire, commentaires, demande, votre demande, remarques, precisions, informations complementaires, comment pouvons nous vous aider, mensaje, su mensaje, tu mensaje, comentario, comentarios, consulta, su consulta, observaciones, como podemos ayudarle, en que podemos ayudarte, messaggio, il tuo messaggio, commenti, commento, richiesta, la tua richiesta, note aggiuntive, come possiamo aiutarti, mensagem, sua mensagem, a sua mensagem, comentario adicional, observacoes, duvida, como podemos ajudar, bericht, uw bericht, jouw bericht, opmerking, opmerkingen, vraag, uw vraag, toelichting, waarmee kunnen we u helpen, hoe kunnen we helpen,
                wiadomosc, tresc wiadomosci, twoja wiadomosc, komentarz, uwagi, pytanie, tresc zapytania, w czym mozemy pomoc, meddelande, ditt meddelande, kommentarer, fraga, ovrigt, vad kan vi hjalpa dig med, besked, din besked, bemaerkninger, bemaerkning, melding, din melding, hva kan vi hjelpe deg med, viesti, viestisi, kommentit, lisatiedot, kuinka voimme auttaa, zprava, vase zprava, poznamka, dotaz, poznamky, jak vam muzeme pomoci, uzenet, megjegyzes, uzenete, kerdes, miben segithetunk, mesaj, mesajiniz, notlar, aciklama, size nasil yardimci olabiliriz, mesajul dumneavoastra, mesajul tau, comentarii, observatii, сообщение, комментарий, ваше сообщение, вопрос, メッセージ, お問い合わせ内容, お問合せ内容, ご質問, ご要望, 備考
                """,
            ["consent"] = """
                consent, gdpr, gdpr consent, privacy, privacy policy, privacy consent, terms, terms and conditions, accept terms, agree terms, agree to terms, opt in, marketing consent, marketing opt in, i agree, i agree to the privacy policy, i accept the privacy policy, datenschutz, einwilligung, datenschutzerklarung, dsgvo, zustimmung, consentement, politique de confidentialite, jaccepte la politique de confidentialite, rgpd, consentimiento, politica de privacidad, acepto la politica de privacidad, proteccion de datos, consenso, consenso privacy, privacy e consenso, informativa privacy, trattamento dei dati, consentimento, aceito a politica de privacidade, politica de privacidade, lgpd,
                toestemming, privacyverklaring, avg, akkoord, ik ga akkoord met de privacyverklaring, zgoda, zgoda rodo, rodo, polityka prywatnosci, samtycke, integritetspolicy, samtykke, persondatapolitik, personvern, suostumus, tietosuoja, souhlas, souhlas se zpracovanim osobnich udaju, ochrana osobnich udaju, hozzajarulas, adatvedelem, adatkezelesi hozzajarulas, kvkk, riza, acik riza, onay, acord, consimtamant, согласие, политика конфиденциальности, 同意, 個人情報の取り扱い, プライバシーポリシー
                """,
        };

    /// <summary>Words that say nothing about which field it is.</summary>
    public static string Fillers { get; } =
        """
            your you the a an of my our please enter type in here field fld input inp txt text tb box form frm lead contact cust customer client user person data attributes attr properties props fields q question answer ans custom c f v val value str s el elem element cf ctl ctrl main content item id required optional obligatory mandatory req opt st new web0 to is what whats
            ihr ihre ihren deine dein bitte eingeben angeben pflichtfeld feld eingabe der die das wie lautet ist
            votre vos veuillez saisir entrer champ obligatoire le la les de du des l quel est saisissez quelle
            su sus tu tus por favor introduzca introduce escriba escribe ingrese ingresa campo obligatorio el los las cual es del
            il tuo la tua i tuoi inserisci inserire obbligatorio di del della lo qual e suo sua
            seu sua seus o os as do da digite insira informe preencha qual
            uw jouw je vul invullen verplicht veld het een wat van
            twoj twoje twoja podaj wpisz pole wymagane prosze jaki jest panstwa
            ditt din dina ange fyll i obligatoriskt falt vad ar ar
            dit indtast skriv udfyld obligatorisk felt hvad er skriv inn oppgi hva
            sinun syota anna kirjoita pakollinen kentta mika on si
            vas vase vasi zadejte uvedte povinne prosim
            az on te kerjuk adja meg kotelezo mezo
            sizin senin lutfen girin giriniz yazin alani zorunlu
            dumneavoastra dvs tau ta va rugam introduceti completati camp obligatoriu
            ваш ваша ваше ваши введите укажите поле обязательное пожалуйста
            を ください 入力 必須 ご の
            """;

    /// <summary>Words that narrow a field and leave it what it is, by lead field.</summary>
    public static IReadOnlyDictionary<string, string> Modifiers { get; } =
        new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["email"] =
                "work business company corporate office personal private primary best valid professional contact reach at where can we send us geschaftliche geschaftlich berufliche private dienstliche professionnelle professionnel profesional corporativo empresarial laboral trabajo aziendale lavoro professionale profissional zakelijk zakelijke sluzbowy firmowy firmowa jobb tyo pracovni firemni ceges is kurumsal de serviciu рабочий рабочая",
            ["phone"] =
                "work business office personal private daytime day evening best main primary direct contact number reach us can we call for with area including code incl vorwahl mit privat geschaftlich tagsuber fixe direct professionnel de contacto contato contatto aziendale fijo fisso fixo zakelijk vast sluzbowy kontaktowy kontaktni dagtid pa arbete hjem tyo kapcsolattarto iletisim contact рабочий контактный 1 2 nr no num numero number numer nummer cislo",
            ["company"] =
                "current your legal registered trading full aktuelle actuelle actual attuale atual huidige obecna nykyinen",
            ["job_title"] =
                "current your aktuelle actuel actuelle actual attuale atual huidige obecne nykyinen company at",
            ["full_name"] =
                "contato contacto contatto visitor guest first last middle and your contact legal real i og och ja et y en und e a",
            ["first_name"] = "legal contact",
            ["last_name"] = "legal contact",
            ["website"] =
                "company business your current existing firmy firmen unternehmens entreprise empresa azienda bedrijf",
            ["street"] =
                "billing delivery installation home work full number company business site service of complete rechnungs liefer completa completo complete firmy",
            ["postcode"] = "home work delivery installation site your of depot billing",
            ["city"] = "home your of current billing delivery where do you live name nazwa",
            ["region"] = "your of name home us",
            ["country"] = "your of home current select choose",
            ["message"] = "your any other short brief further more about the us tell text und oder et y e of or und ou",
            ["consent"] =
                "i to the and with agree accept have read our my you by data marketing processing contacted communications receive be personal ich stimme zu habe gelesen und der die zur je jai lu he leido y la acepto ho letto e li e concordo com os ik ga akkoord met de heb gelezen wyrazam zgode na przetwarzanie danych osobowych jag godkanner jeg accepterer hyvaksyn",
        };

    /// <summary>Words that make it another field altogether, by lead field.</summary>
    public static IReadOnlyDictionary<string, string> Vetoes { get; } =
        new Dictionary<string, string>(StringComparer.Ordinal)
        {
            ["*"] =
                "confirm confirmation repeat retype verify again wiederholen bestatigen bestatigung confirmer confirmez confirmar confirme repita repite conferma ripeti confirmacao bevestig herhaal powtorz potwierdz upprepa bekrafta gentag bekraeft gjenta vahvista zopakujte potvrdte emergency username nickname login friend referred referrer referral colleague spouse partner child pet dog agent previous second 確認",
        };

    /// <summary>Writing without spaces between words: phrases are looked for as parts.</summary>
    public static bool HasNoSpaces(string text) =>
        text.Any(c => c is (>= '\u3040' and <= '\u30ff') or (>= '\u4e00' and <= '\u9fff'));
}
