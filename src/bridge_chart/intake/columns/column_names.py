"""How columns are called, in one table that anybody can extend: per kind of file, the names by
which each role is recognised, and the words for it."""

from __future__ import annotations

ONE_QUESTION = r"(q(uestion)? ?)?\d{1,3} ?[a-z]?"
COMMON = {
    "number": r"((student|pupil|learner|candidate|admission|adm|school)s? ?)?"
    r"(number|numb|no|nr|id|code|ref|reference|#)|student|pupil|learner|candidate|sid|"
    r"unique (pupil|student|learner) (number|no|id)|upn|cand ?(number|no|nr|id)",
    "given_name": r"((legal|preferred) )?(given|first|fore|chosen) ?names?|preferred( names?)?|"
    r"known as",
    "family_name": r"((legal|preferred) )?(family|last|sur) ?name",
    "full_name": r"(student|pupil|learner|candidate|full)( ?names?)?|names?",
    "birth_date": r"(birth ?date|date of birth|dob|d o b|born)( [dmy ]+)?",
    "year_level": r"((nc|curriculum) ?)?(year|yr)( ?(level|group|grp))?|grade ?level|yl",
}
ROSTER = {
    **COMMON,
    "academic_year": r"(school|academic) ?year|(school|academic) ?session",
    "school": r"(sch|school)( ?name)?|site|campus|establishment",
    "class": r"(class|cls)( ?(name|code|group))?|group|grp",
    "form": r"form( ?(class|group|grp|name))?|homeroom|(reg|registration)( ?(class|group|grp))?|"
    r"tutor ?(group|grp|class)|tg",
    "set": r"((teaching|subject) ?)?set( ?(name|code))?|(teaching|subject) ?(group|grp|class)",
    "teacher": r"((class|form|subject) ?)?(teacher|tutor)( s)?( name)?|staff( name)?|taught ?by",
    "course": r"(course|subject)( ?name)?",
}
RESULTS = {
    **COMMON,
    "test": r"(test|test ?name|assessment|exam|survey)",
    "subject": r"(subject|learning ?area|domain)",
    "sitting": r"(sitting|session|term|window|round|season)",
    "date": r"((test|exam|sitting|assessment) ?)?date|date ?(taken|sat)|"
    r"date of (test|exam|assessment)",
    "status": r"(status|attendance|outcome ?code)",
    "score:scaled": r"(scaled|scale|standardi[sz]ed|std|standard)( ?score)?",
    "score:percent": r"(percent|percentage|per ?cent|%|pct)( ?(score|correct|mark))?|"
    r"(score|mark|result)s? %",
    "score:level": r"((performance|achievement|proficiency) ?)?(level|band)",
    "predicted": r"(predicted|forecast|est|estimated?)( (grade|level|score|mark))?",
    "target": r"([a-z]+ )*target( (grade|level|score|mark))?",
    "score:raw": r"((raw|total) ?)?(score|mark|marks|points|result|total)( \d+)?|outcome|actual",
    "score:grade": r"([a-z]+ )*grade( awarded| achieved)?|outcome|actual|result",
    "form": r"(test ?)?(form|booklet|version)",
    "strand": r"strand .+|.+ strand( (mark|score|raw|out of \d+|max \d+|\d+))*",
    "question": r"(p(aper)? ?\d{1,2} )?q(uestion)? ?\d{1,3} ?[a-z]?( [ivx]+)?|\d{1,3} ?[a-z]?",
    "item": r"question( (no|number|name))?|item( (no|number|name))?|q",
    "option": rf"({ONE_QUESTION} )?(option|choice|response|chosen|answer)( (chosen|given))?",
    "written": rf"({ONE_QUESTION} )?(written )?(explanation|reason|why|wrote|working)|"
    r"what they wrote",
}
CREDITS = {
    **{role: COMMON[role] for role in ("number", "given_name", "family_name")},
    "standard": r"(standard|unit)( (number|code|id|no))?|module( code)?",
    "full_name": COMMON["full_name"],
    "birth_date": COMMON["birth_date"],
    "subject": RESULTS["subject"],
    "title": r"title|(standard|unit) (name|title)|description",
    "level": r"level",
    "kind": r"kind|type|assess(ed|ment)( type)?|internal external",
    "credits": r"credits?( value| earned| gained)?",
    "result": r"result|grade|outcome|achieved",
    "estimated": r"estimated?|banked( or estimated)?|standing|status",
    "date": r"date|date (awarded|earned|reported)",
    "credits_banked": r"(credits? )?(banked|achieved|gained|internal|external)( credits?)?",
    "credits_estimated": r"(credits? )?(estimated|expected|predicted|provisional) credits?|"
    r"credits? (estimated|expected|predicted|provisional)",
}
SCALE = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "score": r"(kind of )?(score|scale)",
    "step": r"(step|grade|level|name)",
    "points": r"points?|value",
    "passes": r"pass(es)?|pass ?line|passed",
    "synonyms": r"synonyms?|also( written)?|other names?",
    "year_level": COMMON["year_level"],
    "form": RESULTS["form"],
    "school_year": r"(school|academic) ?year|year of the test",
    "from": r"from|cut( score)?|lowest( score)?",
    "upper": r"upper( half)?( from)?",
    "expected": r"(age )?expected( for age)?",
    "in": r"((cut( score)?s?|from|boundar(y|ies)) )?(is |are )?in|kind of figure",
}
QUESTIONS = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "sitting": RESULTS["sitting"],
    "form": RESULTS["form"],
    "question": r"question( number)?|q|item",
    "title": r"title|wording|question text|about|name( of the question)?|asks",
    "paper": r"paper|component",
    "section": r"section",
    "maximum": r"max(imum)?( marks?)?|marks|available|out of",
    "strand": r"strand|area|content( area)?",
    "topic": r"topic",
    "objective": r"objective|standard",
    "skill": r"skill",
    "type": r"type|question type",
    "key": r"key|right( option)?|answer",
    "options": r"options|choices",
    "choice": r"choice|choose (from|among)|set( of questions)?",
    "best": r"best|how many count|count",
    "mastered_at": r"master(ed|y)( at| from)?",
    "page": r"page( in the paper)?",
    "common": r"(common|same as|anchor)( (id|question|item))?|id",
}
NATIONAL = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "sitting": RESULTS["sitting"],
    "form": RESULTS["form"],
    "year_level": COMMON["year_level"],
    "score": r"(kind of )?(score|scale)",
    "part": r"part|strand|content( area)?|area",
    "statistic": r"statistic|figure|measure",
    "of": r"of|percentile|step|question",
    "value": r"value",
    "published": r"published|issued|as of",
    "n": r"n|(number of )?(students|pupils|candidates|entries)|entry",
    "mean": r"(national )?(mean|average)( score| mark)?",
    "sd": r"(national )?(sd|s d|st ?dev|std|standard deviation)",
    "percentile": r"p ?\d{1,2}|\d{1,2}(st|nd|rd|th)? (per)?centile|(per)?centile \d{1,2}|median|"
    r"(lower|upper) quartile",
    "facility": r"facility .+|.+ facility",
    "share": r"(share|%|percent(age)?) .+|.+ (%|share|percent(age)?)",
}
EXPECTATION = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "sitting": RESULTS["sitting"],
    "year_level": COMMON["year_level"],
    "score": r"(kind of )?(score|scale)",
    "start_test": r"start(ing)? test",
    "start_subject": r"start(ing)? subject",
    "start_score": r"start(ing)? (kind of )?(score|scale)",
    "start": r"start(ing)?( point| value)?|prior",
    "expected_value": r"expected( outcome| score| grade| value)?",
    "ambitious_value": r"ambitious( outcome| score| grade| value)?",
    "published": r"published|issued|as of",
}
CONVERSION = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "score": r"(kind of )?(score|scale)",
    "value": r"value|from|score from|lowest( score)?",
    "onto": r"onto|to( scale)?|target scale",
    "becomes": r"becomes|equals|band|converted( to)?",
    "published": r"published|issued|as of",
}
MOVEMENT = {
    "rule": r"(movement )?rule|called|name( of the rule)?",
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "before": r"before|from|start",
    "after": r"after|to|now",
    "credit": r"credit|counts|share",
}
AWARD = {
    "award": r"award|rule|qualification|threshold",
    "grade": r"grade|endorsement",
    "condition": r"condition|part|requirement",
    "within": r"within|inside|part of",
    "joins": r"joins?|joined by|and/or",
    "credits": r"credits|at least|minimum( credits)?",
    "subjects": r"(in )?subjects|number of subjects",
    "subject": RESULTS["subject"],
    "level": r"level",
    "kind": r"kind|type|assessed",
    "result": r"results?|(with )?grades",
    "standards": r"standards?|list",
    "year_level": r"(students in |of |asked of )?(year (level|group)|grade level)",
    "school_year": r"(since|from|school|academic) ?(school )?year|since",
}
PRACTICE = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "sitting": RESULTS["sitting"],
    "score": r"(kind of )?(score|scale)",
    "role": r"role|result or predicted",
    "value": r"value|from|grade from|score from|lowest( score)?",
    "standard": CREDITS["standard"],
    "title": CREDITS["title"],
    "of_subject": r"(subject of the )?standard subject|its subject|of subject",
    "level": r"level",
    "kind": r"kind|type|assessed",
    "result": r"result|counts as|becomes",
    "credits": r"credits",
}
RELIABILITY = {
    "test": RESULTS["test"],
    "subject": RESULTS["subject"],
    "sitting": RESULTS["sitting"],
    "form": RESULTS["form"],
    "year_level": COMMON["year_level"],
    "score": r"(kind of )?(score|scale)",
    "reliability": r"reliability( coefficient)?|alpha",
    "error": r"(standard )?error( of measurement)?|sem",
}
NAMES = {
    "what": r"what|kind( of name)?",
    "name": r"names?|written|as written",
    "of": r"of|of what|belongs to",
    "subject": RESULTS["subject"],
    "means": r"means|same as|is|called|becomes",
    "date": RESULTS["date"],
    "place": r"place|order|position",
    "holds": r"holds|type",
}
NEXT_STEPS = {
    "strand": r"(strand|topic|area|domain)( ?name)?",
    "level": r"(level|band|stage)( ?(now|of the student))?",
    "subject": RESULTS["subject"],
    "text": r"text|what( to do)?|(next )?steps?|advice|do",
    "link": r"link|url|address|see|where|unit",
}
PATTERNS = {
    "roster": ROSTER,
    "results": RESULTS,
    "credits": CREDITS,
    "scale": SCALE,
    "questions": QUESTIONS,
    "national": NATIONAL,
    "expectation": EXPECTATION,
    "conversion": CONVERSION,
    "movement": MOVEMENT,
    "award": AWARD,
    "practice": PRACTICE,
    "reliability": RELIABILITY,
    "names": NAMES,
    "next_steps": NEXT_STEPS,
}
WIDE = {
    "national": ("n", "mean", "sd", "percentile", "facility", "share"),
    "conversion": ("becomes",),
    "expectation": ("expected_value",),
    "credits": ("credits_banked", "credits_estimated"),
}
"""Roles that several columns of a table may have, each of them a row of its own."""
TABLES = tuple(kind for kind in PATTERNS if kind not in ("roster", "results", "credits"))
"""Kinds of file that hold a table of reference, not students."""
ROLES = {
    "roster": {
        "number": "student number", "given_name": "given name", "family_name": "family name",
        "full_name": "full name", "birth_date": "birth date", "academic_year": "school year",
        "school": "school",
        "year_level": "year level", "class": "class", "form": "form or tutor group",
        "set": "set or teaching group", "teacher": "teacher",
        "course": "course (what the class is taught)", "characteristic": "characteristic",
        "ignore": "leave out",
    },
    "results": {
        "number": "student number", "given_name": "given name", "family_name": "family name",
        "full_name": "full name", "birth_date": "birth date", "year_level": "year level",
        "test": "test", "subject": "subject", "sitting": "sitting", "date": "date",
        "status": "status", "score:scaled": "scaled score", "score:raw": "raw mark",
        "score:percent": "percent", "score:level": "level", "score:grade": "grade",
        "form": "form of the test", "predicted": "predicted", "target": "target",
        "question": "marks or letters of a question", "strand": "marks of a strand",
        "item": "question, one a row", "option": "option chosen", "written": "what they wrote",
        "ignore": "leave out",
    },
    "credits": {
        "number": "student number", "given_name": "given name", "family_name": "family name",
        "full_name": "full name", "birth_date": "birth date", "standard": "standard",
        "title": "what the standard is called", "subject": "subject", "level": "level",
        "kind": "kind of assessment", "credits": "credits", "credits_banked": "credits, banked",
        "credits_estimated": "credits, estimated", "result": "result",
        "estimated": "banked or estimated", "date": "date", "ignore": "leave out",
    },
    **{
        kind: {**{role: role.replace("_", " ") for role in PATTERNS[kind]}, "ignore": "leave out"}
        for kind in TABLES
    },
    "questions": {
        **{role: role.replace("_", " ") for role in QUESTIONS},
        "tag": "tag of your own", "ignore": "leave out",
    },
}  # fmt: skip
