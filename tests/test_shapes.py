"""Small sheets as people make them, and the relations that they are: each shape once, by itself."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from statistics import mode

import pytest

from conftest import shown
from hemplit.core.model.grid import Grid, Range, Source
from hemplit.core.shape import shape
from hemplit.files.cells import from_texts


@dataclass(frozen=True)
class Case:
    """A sheet, and each relation of it as CSV under its name; ``doubt`` is said where something is left as it is."""

    sheet: str
    truth: dict[str, str]
    merged: tuple[Range, ...] = ()
    doubt: str = ""


def grid(text: str, merged: tuple[Range, ...]) -> Grid:
    lines = list(csv.reader(io.StringIO(text)))
    width = max(map(len, lines))
    usual = mode(map(len, lines))
    columns = [from_texts([line[at] if at < len(line) else "" for line in lines]) for at in range(width)]
    long = tuple(row for row, line in enumerate(lines) if len(line) > usual and any(line[usual:]))
    return Grid(Source("yard.csv"), tuple(columns), len(lines), merged, long)


LINES = "Job,Boat,Hours\n1,Teal,2\n2,Smew,3\n3,Knot,4\n4,Teal,1\n"
CASES = {
    "lists of words that hold as many by chance": Case(
        'Rigger,Works,Tongues\n1,"rig, weld","Dutch, Danish"\n2,weld,Dutch\n3,"weld, sew","Danish, Frisian"\n4,"sew, rig","Dutch, Frisian"\n',
        {
            "": "Rigger\n1\n2\n3\n4\n",
            "Works": "Rigger,Works,Position\n1,rig,1\n1,weld,2\n2,weld,1\n3,weld,1\n3,sew,2\n4,sew,1\n4,rig,2\n",
            "Tongues": "Rigger,Tongues,Position\n1,Dutch,1\n1,Danish,2\n2,Dutch,1\n3,Danish,1\n3,Frisian,2\n4,Dutch,1\n4,Frisian,2\n",
        },
    ),
    "values with their numbers, and prices in another cell": Case(
        "Job,Parts,Prices\n1,rope (2); tar (5),1.5; 3.5\n2,brush (1),4.5\n3,tar (1); cleat (4); rope (1),3.5; 2; 1.5\n4,rope (3),1.5\n",
        {
            "": "Job\n1\n2\n3\n4\n",
            "Parts": "Job,Parts,Quantity,Prices,Position\n1,rope,2,1.5,1\n1,tar,5,3.5,2\n2,brush,1,4.5,1\n3,tar,1,3.5,1\n"
            "3,cleat,4,2,2\n3,rope,1,1.5,3\n4,rope,3,1.5,1\n",
        },
    ),
    "two numbers in each cell may be another pair than two names": Case(
        "Job,Crew,Tide\n1,Ann/Ben,2/5\n2,Ben/Cas,3/6\n3,Cas/Ann,2/6\n4,Ann/Cas,1/5\n",
        {
            "": "Job,Tide\n1,2/5\n2,3/6\n3,2/6\n4,1/5\n",
            "Crew": "Job,Crew,Position\n1,Ann,1\n1,Ben,2\n2,Ben,1\n2,Cas,2\n3,Cas,1\n3,Ann,2\n4,Ann,1\n4,Cas,2\n",
        },
    ),
    "what is said of a boat by name, and how its owner is reached": Case(
        "Boat,Contact,Specs\nTeal,ann@quay.example / 01555 220101,rig: sloop; hull: oak\nKnot,ben@fen.example / 01555 220102,rig = yawl; hull = elm\n"
        "Smew,cas@sea.example / 01557 330201,hull: steel\nRuff,dee@dock.example / 01557 330202,rig: ketch; hull: elm\n",
        {
            "": "Boat,Contact Email,Contact Phone\nTeal,ann@quay.example,01555 220101\nKnot,ben@fen.example,01555 220102\n"
            "Smew,cas@sea.example,01557 330201\nRuff,dee@dock.example,01557 330202\n",
            "Specs": "Boat,Specs,Spec Value,Position\nTeal,rig,sloop,1\nTeal,hull,oak,2\nKnot,rig,yawl,1\nKnot,hull,elm,2\n"
            "Smew,hull,steel,1\nRuff,rig,ketch,1\nRuff,hull,elm,2\n",
        },
    ),
    "what is said once by name is a remark": Case(
        "Boat,Log\nTeal,mast: cracked; keel: dry\nKnot,rudder: stiff; sail: torn\nSmew,anchor: lost\n",
        {"": "Boat,Log\nTeal,mast: cracked; keel: dry\nKnot,rudder: stiff; sail: torn\nSmew,anchor: lost\n"},
    ),
    "amounts, each with its unit": Case(
        'Job,Parts,Amounts,Units\n1,"rope,tar","2,1","m,kg"\n2,rope,4,m\n3,"peg,tar,oil","1,1,10","pc,kg,kg"\n4,"oil,peg","5,2","kg,pc"\n',
        {
            "": "Job\n1\n2\n3\n4\n",
            "Parts": "Job,Parts,Amounts,Units,Position\n1,rope,2,m,1\n1,tar,1,kg,2\n2,rope,4,m,1\n3,peg,1,pc,1\n3,tar,1,kg,2\n"
            "3,oil,10,kg,3\n4,oil,5,kg,1\n4,peg,2,pc,2\n",
        },
    ),
    "one mark too many keeps marks apart from who has them, and is told once": Case(
        "Watch,Crew,Marks\n1,Ann; Ben; Cas,A; B; A\n2,Ben; Dee,C; A\n3,Ann,B\n4,Cas; Dee; Ann; Ben,B; B; C; A\n5,Dee; Eli,A\n",
        {
            "": "Watch\n1\n2\n3\n4\n5\n",
            "Crew": "Watch,Crew,Position\n1,Ann,1\n1,Ben,2\n1,Cas,3\n2,Ben,1\n2,Dee,2\n3,Ann,1\n4,Cas,1\n4,Dee,2\n"
            "4,Ann,3\n4,Ben,4\n5,Dee,1\n5,Eli,2\n",
            "Marks": "Watch,Marks,Position\n1,A,1\n1,B,2\n1,A,3\n2,C,1\n2,A,2\n3,B,1\n4,B,1\n4,B,2\n4,C,3\n4,A,4\n5,A,1\n",
        },
        doubt="'Marks' holds as many values as 'Crew' in each row but for some: C6 'A'",
    ),
    "radios stand beside who has them, as each comes again with the same": Case(
        "Watch,Crew,Radio\n1,Ros; Sam,R4; R7\n2,Tia,R9\n3,Ros; Tia; Ulf,R4; R9; R2\n4,Sam,R7\n",
        {
            "": "Watch\n1\n2\n3\n4\n",
            "Crew": "Watch,Crew,Radio,Position\n1,Ros,R4,1\n1,Sam,R7,2\n2,Tia,R9,1\n3,Ros,R4,1\n3,Tia,R9,2\n3,Ulf,R2,3\n"
            "4,Sam,R7,1\n",
        },
    ),
    "radios that change hands are a list of their own": Case(
        "Watch,Crew,Radio\n1,Ros; Sam,R4; R7\n2,Tia,R4\n3,Ros; Tia; Ulf,R4; R9; R7\n4,Sam,R7\n",
        {
            "": "Watch\n1\n2\n3\n4\n",
            "Crew": "Watch,Crew,Position\n1,Ros,1\n1,Sam,2\n2,Tia,1\n3,Ros,1\n3,Tia,2\n3,Ulf,3\n4,Sam,1\n",
            "Radio": "Watch,Radio,Position\n1,R4,1\n1,R7,2\n2,R4,1\n3,R4,1\n3,R9,2\n3,R7,3\n4,R7,1\n",
        },
    ),
    "a sign too many makes no list": Case(
        "Boat,Wood\nTeal,oak;\nKnot,elm\nSmew,oak\nRuff,elm\n",
        {"": "Boat,Wood\nTeal,oak;\nKnot,elm\nSmew,oak\nRuff,elm\n"},
    ),
    "one cell has two values that others have alone": Case(
        'Boat,Faults,Remark,Hull\nTeal,"rope, cleat","mild, dry",oak/elm\nKnot,rope,mild,oak\nSmew,cleat,dry,elm\nRuff,,,\n',
        {
            "": "Boat,Remark,Hull\nTeal,\"mild, dry\",oak/elm\nKnot,mild,oak\nSmew,dry,elm\nRuff,,\n",
            "Faults": "Boat,Faults,Position\nTeal,rope,1\nTeal,cleat,2\nKnot,rope,1\nSmew,cleat,1\n",
        },
    ),
    "what is said of each of a list stands in another cell": Case(
        'Race,Crew,Watch\n1,"Ann, Ben","am, pm"\n2,Ben,am\n3,"Cas, Ann, Ben","pm, am, pm"\n4,Cas,pm\n5,"Ann, Cas","am, am"\n6,Ben,pm\n',
        {
            "": "Race\n1\n2\n3\n4\n5\n6\n",
            "Crew": "Race,Crew,Watch,Position\n1,Ann,am,1\n1,Ben,pm,2\n2,Ben,am,1\n3,Cas,pm,1\n3,Ann,am,2\n3,Ben,pm,3\n"
            "4,Cas,pm,1\n5,Ann,am,1\n5,Cas,am,2\n6,Ben,pm,1\n",
        },
    ),
    "full names, some with a title": Case(
        "Job,Full Name\n1,Dr. Oskar van der Keel\n2,Ada Falk\n3,Prof. Dr. Eva Holm\n4,Ada Falk\n",
        {
            "": "Job,Title,First Name,Last Name\n1,Dr.,Oskar,van der Keel\n2,,Ada,Falk\n3,Prof. Dr.,Eva,Holm\n4,,Ada,Falk\n"
        },
    ),
    "full names, some with a suffix": Case(
        "Job,Full Name\n1,Ben Lund Jr.\n2,Ada Falk\n3,Eva Holm\n",
        {"": "Job,First Name,Last Name,Suffix\n1,Ben,Lund,Jr.\n2,Ada,Falk,\n3,Eva,Holm,\n"},
    ),
    "two tables side by side, with a title each": Case(
        "Boats,,,,Berths,\nBoat,Length,Owner,,Berth,Depth\nTeal,6.2,Keel,,N1,2.1\nSmew,5.5,Lund,,S1,1.9\n",
        {"": "Boat,Length,Owner\nTeal,6.2,Keel\nSmew,5.5,Lund\n", "table 2": "Berth,Depth\nN1,2.1\nS1,1.9\n"},
    ),
    "an empty column between columns": Case(
        "Boat,Length,,Berth,Depth\nTeal,6.2,,N1,2.1\nSmew,5.5,,S1,1.9\n",
        {"": "Boat,Length,Berth,Depth\nTeal,6.2,N1,2.1\nSmew,5.5,S1,1.9\n"},
        doubt="column C is empty: there may be 2 tables side by side",
    ),
    "title, gap, total and note": Case(
        "Jobs in April\n\nJob,Boat,Hours\n1,Teal,2\n2,Smew,3\n3,Knot,4\n4,Teal,1\nTotal,,10\n\n* without tax\n", {"": LINES}
    ),
    "header on every page": Case(
        "Job,Boat,Hours\n1,Teal,2\n2,Smew,3\nJob,Boat,Hours\n3,Knot,4\nJob,Boat,Hours\n4,Teal,1\n", {"": LINES}
    ),
    "subtotals": Case(
        "Dock,Berth,Boats\nNorth,N1,2\nNorth,N2,3\nNorth total,,5\nSouth,S1,4\nSouth,S2,4\nSouth total,,8\nGrand total,,13\n",
        {"": "Dock,Berth,Boats\nNorth,N1,2\nNorth,N2,3\nSouth,S1,4\nSouth,S2,4\n"},
    ),
    "a total without a word": Case("Job,Boat,Hours\n1,Teal,2\n2,Smew,3\n3,Knot,4\n4,Teal,1\n,,10\n", {"": LINES}),
    "a line that is too long": Case("Job,Boat,Hours\n1,Teal,2\n2,Smew,3\n9,Grebe,grey,7\n3,Knot,4\n4,Teal,1\n", {"": LINES}),
    "two rows of header, merged": Case(
        "Job,Owner,,Boat,\n,Name,Phone,Name,Length\n1,Keel,0555 1,Teal,7.5\n2,Lund,0555 2,Smew,8.5\n",
        {"": "Job,Owner Name,Owner Phone,Boat Name,Boat Length\n1,Keel,0555 1,Teal,7.5\n2,Lund,0555 2,Smew,8.5\n"},
        (Range(0, 0, 1, 0), Range(0, 1, 0, 2), Range(0, 3, 0, 4)),
    ),
    "two rows of header, not merged": Case(
        "Job,Owner,,Boat,\n,Name,Phone,Name,Length\n1,Keel,0555 1,Teal,7.5\n2,Lund,0555 2,Smew,8.5\n",
        {"": "Job,Owner Name,Owner Phone,Boat Name,Boat Length\n1,Keel,0555 1,Teal,7.5\n2,Lund,0555 2,Smew,8.5\n"},
    ),
    "merged down": Case(
        "Dock,Berth,Boats\nNorth,N1,2\n,N2,3\n,N3,1\nSouth,S1,4\n,,\n",
        {"": "Dock,Berth,Boats\nNorth,N1,2\nNorth,N2,3\nNorth,N3,1\nSouth,S1,4\n"},
        (Range(1, 0, 3, 0),),
    ),
    "a total of the job on its last line": Case(
        "Job,Boat,Part,Qty,Job Total\n1,Teal,cleat,4,\n,,rope,1,50.25\n2,Smew,rope,2,\n,,cleat,2,\n,,anode,1,80.00\n3,Knot,anode,1,9.50\n",
        {
            "": "Job,Boat,Part,Qty,Job Total\n1,Teal,cleat,4,50.25\n1,Teal,rope,1,50.25\n2,Smew,rope,2,80.00\n"
            "2,Smew,cleat,2,80.00\n2,Smew,anode,1,80.00\n3,Knot,anode,1,9.50\n"
        },
    ),
    "blank that may mean none": Case(
        "Boat,Owner,Berth Code\nTeal,Keel,N1\n,,N2\nSmew,Lund,N3\n,,N4\n,,S1\nKnot,Holm,S2\n",
        {"": "Boat,Owner,Berth Code\nTeal,Keel,N1\n,,N2\nSmew,Lund,N3\n,,N4\n,,S1\nKnot,Holm,S2\n"},
        doubt="'as above' or 'none'",
    ),
    "names of several, of which none comes again": Case(
        'Boat,Owner,Family Members\nTeal,Jo Hart,"Pip Hart, Max Hart"\nSmew,Lee Chan,\n'
        'Knot,Ria Sen,"Om Sen, Dev Sen, Uma Sen"\nRail,Kit Moss,Ivy Moss\n',
        {
            "": "Boat,Owner\nTeal,Jo Hart\nSmew,Lee Chan\nKnot,Ria Sen\nRail,Kit Moss\n",
            "Family Members": "Boat,Family Members,Position\nTeal,Pip Hart,1\nTeal,Max Hart,2\nKnot,Om Sen,1\n"
            "Knot,Dev Sen,2\nKnot,Uma Sen,3\nRail,Ivy Moss,1\n",
        },
    ),
    "words of several, of which one comes again": Case(
        "Boat,Faults\nTeal,worn rope; loose cleat\nSmew,split seam\nKnot,dry rot; worn rope; bent rail\nRail,no lamp\n",
        {
            "": "Boat\nTeal\nSmew\nKnot\nRail\n",
            "Faults": "Boat,Faults,Position\nTeal,worn rope,1\nTeal,loose cleat,2\nSmew,split seam,1\n"
            "Knot,dry rot,1\nKnot,worn rope,2\nKnot,bent rail,3\nRail,no lamp,1\n",
        },
    ),
    "parts of few jobs": Case(
        'Job,Parts\n1,"primer, gloss"\n2,shackle\n3,"filter, belt, oil"\n4,"shackle, rope"\n5,"oil, filter"\n',
        {
            "": "Job\n1\n2\n3\n4\n5\n",
            "Parts": "Job,Parts,Position\n1,primer,1\n1,gloss,2\n2,shackle,1\n3,filter,1\n3,belt,2\n3,oil,3\n"
            "4,shackle,1\n4,rope,2\n5,oil,1\n5,filter,2\n",
        },
    ),
    "full names, which another column says whole": Case(
        "No,Full Name,Parent\n1,Ann Poe,\n2,Ben Poe,Ann Poe\n3,Cat Roe,\n4,Dan Roe,Cat Roe\n",
        {"": "No,Full Name,Parent\n1,Ann Poe,\n2,Ben Poe,Ann Poe\n3,Cat Roe,\n4,Dan Roe,Cat Roe\n"},
    ),
    "sails, of which one is always first": Case(
        "Boat,Sails\nTeal,\"main, jib\"\nSmew,\"main, genoa, trysail\"\nKnot,lug\n",
        {
            "": "Boat\nTeal\nSmew\nKnot\n",
            "Sails": "Boat,Sails,Position\nTeal,main,1\nTeal,jib,2\nSmew,main,1\nSmew,genoa,2\nSmew,trysail,3\nKnot,lug,1\n",
        },
    ),
    "skills, of which one comes again": Case(
        'Skipper,Skills\nJo,"splicing, diving"\nLee,welding\nRia,"rigging, diving"\nKit,"radio, diving"\n',
        {
            "": "Skipper\nJo\nLee\nRia\nKit\n",
            "Skills": "Skipper,Skills,Position\nJo,splicing,1\nJo,diving,2\nLee,welding,1\nRia,rigging,1\n"
            "Ria,diving,2\nKit,radio,1\nKit,diving,2\n",
        },
    ),
    "bolts, each with its thread": Case(
        'Skipper,Parts\nJo,"bolt, M6"\nLee,nut\nRia,"screw, M6"\nKit,"stud, M6"\n',
        {"": 'Skipper,Parts\nJo,"bolt, M6"\nLee,nut\nRia,"screw, M6"\nKit,"stud, M6"\n'},
    ),
    "faults found at readings of a log": Case(
        "Boat,Log,Faults\nTeal,40210,worn rope; loose cleat\nKnot,22100,dry rot\nTeal,42000,dry rot; worn rope\n",
        {
            "": "Row No,Boat,Log\n1,Teal,40210\n2,Knot,22100\n3,Teal,42000\n",
            "Faults": "Row No,Faults,Position\n1,worn rope,1\n1,loose cleat,2\n2,dry rot,1\n3,dry rot,1\n3,worn rope,2\n",
        },
    ),
    "faults that some found on some days": Case(
        "Skipper,Day,Faults\nJo,2026-01-02,worn rope; loose cleat\nLee,2026-01-03,dry rot\nJo,2026-01-05,dry rot; worn rope\n"
        "Ria,2026-01-07,dry rot\nRia,2026-01-09,bent rail; worn rope\n",
        {
            "": "Row No,Skipper,Day\n1,Jo,2026-01-02\n2,Lee,2026-01-03\n3,Jo,2026-01-05\n4,Ria,2026-01-07\n"
            "5,Ria,2026-01-09\n",
            "Faults": "Row No,Faults,Position\n1,worn rope,1\n1,loose cleat,2\n2,dry rot,1\n3,dry rot,1\n3,worn rope,2\n"
            "4,dry rot,1\n5,bent rail,1\n5,worn rope,2\n",
        },
    ),
    "hours of every one in every week": Case(
        "Skipper,Week,Mon,Tue,Wed\nJo,W05,8,7,\nLee,W05,4,,4\nJo,W06,8,8,8\nLee,W06,,4,4\n",
        {
            "": "Skipper,Week\nJo,W05\nLee,W05\nJo,W06\nLee,W06\n",
            "Value by Day": "Skipper,Week,Value,Day\nJo,W05,8,Mon\nJo,W05,7,Tue\nLee,W05,4,Mon\nLee,W05,4,Wed\n"
            "Jo,W06,8,Mon\nJo,W06,8,Tue\nJo,W06,8,Wed\nLee,W06,4,Tue\nLee,W06,4,Wed\n",
        },
    ),
    "legs of trips, of which the first is always the same": Case(
        "Trip,Boat,Leg,Hours\nT1,Teal,out,2\n,,back,3\nT2,Smew,out,4\n,,back,2\nT3,Knot,out,1\n,,back,2\n",
        {"": "Trip,Boat,Leg,Hours\n" + "".join(
            f"{trip},{leg}\n{trip},{back}\n"
            for trip, leg, back in (
                ("T1,Teal", "out,2", "back,3"), ("T2,Smew", "out,4", "back,2"), ("T3,Knot", "out,1", "back,2")
            )
        )},
    ),
    "blank where another column says another sort": Case(
        "Card No,Order No,Paid By,Sum\nC-4200,3001,card,36\n,3002,cheque,20\n,3003,cash,96\nC-4886,3004,card,24\n"
        "C-4752,3005,card,24\n,3007,cash,18\n,3010,cheque,24\n",
        {
            "": "Card No,Order No,Paid By,Sum\nC-4200,3001,card,36\n,3002,cheque,20\n,3003,cash,96\nC-4886,3004,card,24\n"
            "C-4752,3005,card,24\n,3007,cash,18\n,3010,cheque,24\n"
        },
        doubt="'as above' or 'none'",
    ),
    "side by side": Case(
        "Job,Boat,,Berth,Dock\n1,Teal,,N1,North\n2,Smew,,S1,South\n3,Knot,,,\n4,Rail,,,\n",
        {"": "Job,Boat\n1,Teal\n2,Smew\n3,Knot\n4,Rail\n", "table 2": "Berth,Dock\nN1,North\nS1,South\n"},
    ),
    "one under the other": Case(
        "Job,Boat,Hours\n1,Teal,2\n2,Smew,3\n\nBerths\nBerth,Dock,Boats\nN1,North,4\nS1,South,5\n",
        {"": "Job,Boat,Hours\n1,Teal,2\n2,Smew,3\n", "table 2": "Berth,Dock,Boats\nN1,North,4\nS1,South,5\n"},
    ),
    "a title of two lines, and a note": Case(
        "Fees of 2026,,\nas the board decided,,\n,,\nBoat,Class,Fee\nTeal,A,120\nSmew,B,90\n,,\nDue in March.,,\n",
        {"": "Boat,Class,Fee\nTeal,A,120\nSmew,B,90\n"},
    ),
    "two tables with titles of two lines": Case(
        "Fees,,\nof 2026,,\n,,\nBoat,Class,Fee\nTeal,A,120\nSmew,B,90\n,,\nCranes,,\nof March,,\n,,\nCrane,Tonnes,Dock\nC1,4,N\nC2,9,S\n",
        {"": "Boat,Class,Fee\nTeal,A,120\nSmew,B,90\n", "table 2": "Crane,Tonnes,Dock\nC1,4,N\nC2,9,S\n"},
    ),
    "an empty column inside": Case("Job,,Boat\n1,,Teal\n2,,Smew\n", {"": "Job,Boat\n1,Teal\n2,Smew\n"}),
    "months side by side": Case(
        "Berth,Jan,Feb,Mar\nN1,10,12,\nS1,7,,8\n",
        {"": "Berth\nN1\nS1\n", "Value by Month": "Berth,Value,Month\nN1,10,Jan\nN1,12,Feb\nS1,7,Jan\nS1,8,Mar\n"},
    ),
    "months side by side, each planned and done": Case(
        "Dock,Jan Plan,Jan Done,Feb Plan,Feb Done\nN,10,12,9,8\nS,7,,6,6\n",
        {
            "": "Dock\nN\nS\n",
            "Plan by Month": "Dock,Plan,Done,Month\nN,10,12,Jan\nN,9,8,Feb\nS,7,,Jan\nS,6,6,Feb\n",
        },
    ),
    "days of months with names": Case(
        "Crew,12-Jan Done,12-Jan Paid,19-Jan Done,19-Jan Paid\nAnn,3,30,5,50\nBo,4,40,6,60\n",
        {
            "": "Crew\nAnn\nBo\n",
            "Done by Day": "Crew,Done,Paid,Day\nAnn,3,30,12 Jan\nAnn,5,50,19 Jan\nBo,4,40,12 Jan\nBo,6,60,19 Jan\n",
        },
    ),
    "days beside one word": Case(
        "Crew,12 Jan 2026,19 Jan 2026,26 Jan 2026\nAnn,P,A,\nBo,P,,P\n",
        {
            "": "Crew\nAnn\nBo\n",
            "Value by Day": "Crew,Value,Day\nAnn,P,12 Jan 2026\nAnn,A,19 Jan 2026\nBo,P,12 Jan 2026\nBo,P,26 Jan 2026\n",
        },
    ),
    "months of two years": Case(
        "Dock,Jan 2025,Feb 2025,Jan 2026\nN,1,2,3\nS,5,6,7\n",
        {
            "": "Dock\nN\nS\n",
            "Value by Month": "Dock,Value,Month\nN,1,Jan 2025\nN,2,Feb 2025\nN,3,Jan 2026\nS,5,Jan 2025\nS,6,Feb 2025\n"
            "S,7,Jan 2026\n",
        },
    ),
    "months of which one was not done": Case(
        "Dock,Jan Plan,Jan Done,Feb Plan,Mar Plan,Mar Done\nN,1,2,3,4,5\n",
        {"": "Dock\nN\n", "Plan by Month": "Dock,Plan,Done,Month\nN,1,2,Jan\nN,3,,Feb\nN,4,5,Mar\n"},
    ),
    "years behind what they say": Case(
        "Dock,Fees 2023,Fees 2024,Fees 2025\nN,10,12,9\nS,7,,6\n",
        {"": "Dock\nN\nS\n", "Fees by Year": "Dock,Fees,Year\nN,10,2023\nN,12,2024\nN,9,2025\nS,7,2023\nS,6,2025\n"},
    ),
    "two years of one thing are no group": Case(
        "Dock,Fees 2024,Fees 2025\nN,10,12\nS,7,8\n", {"": "Dock,Fees 2024,Fees 2025\nN,10,12\nS,7,8\n"}
    ),
    "name and phone of each parent": Case(
        "Member No,Parent 1 Name,Parent 1 Phone,Parent 2 Name,Parent 2 Phone\n1,Ann,55-1,Bo,55-2\n2,Cy,55-3,,\n",
        {
            "": "Member No\n1\n2\n",
            "Parent": "Member No,Parent Name,Parent Phone,Position\n1,Ann,55-1,1\n1,Bo,55-2,2\n2,Cy,55-3,1\n",
        },
    ),
    "years over few values": Case(
        "Club,Town,2023,2024,2025\nTarn SC,Tarn,,,400\nOs SC,Os,,200,\n",
        {
            "": "Club,Town\nTarn SC,Tarn\nOs SC,Os\n",
            "Value by Year": "Club,Value,Year\nTarn SC,400,2025\nOs SC,200,2024\n",
        },
    ),
    "headings between the rows": Case(
        "Berth,Boat,Owner\nNorth Dock,,\nA1,Teal,Keel\nA2,Smew,Lund\nSouth Dock,,\nB1,Knot,Holm\nB2,Rail,Keel\n",
        {"": "Berth,Boat,Owner,Dock\nA1,Teal,Keel,North Dock\nA2,Smew,Lund,North Dock\nB1,Knot,Holm,South Dock\nB2,Rail,Keel,South Dock\n"},
    ),
    "headings in a column of their own": Case(
        "Shelf,Part,Price\nShelf 1,,\n,mast step,40\n,spreader,12\nShelf 2,,\n,halyard,9\n,sheet,7\n",
        {"": "Shelf,Part,Price\nShelf 1,mast step,40\nShelf 1,spreader,12\nShelf 2,halyard,9\nShelf 2,sheet,7\n"},
    ),
    "names of which nothing else is known": Case(
        "Boat,Owner,Length\nTeal,,\nSmew,Lund,7.5\nKnot,,\nRail,Keel,8.5\n",
        {"": "Boat,Owner,Length\nTeal,,\nSmew,Lund,7.5\nKnot,,\nRail,Keel,8.5\n"},
    ),
    "forms one below the other": Case(
        "Job No,J-17,,,Day,2026-03-01\nOwner,Keel,,,Phone,555 0101\n,,,,,\nPart,Qty,Price,Fee,,\ncleat,4,2.5,10,,\n"
        "rope,3,2,6,,\nSubtotal,,,16,,\nTax 10 %,,,1.6,,\nTotal,,,17.6,,\n,,,,,\nJob No,J-18,,,Day,2026-03-04\n"
        "Owner,Lund,,,Phone,\n,,,,,\nPart,Qty,Price,Fee,,\nrope,6,2,12,,\nSubtotal,,,12,,\nTax 10 %,,,1.2,,\n"
        "Total,,,13.2,,\n",
        {
            "": "Part,Qty,Price,Fee,Job No,Day,Owner,Phone\ncleat,4,2.5,10,J-17,2026-03-01,Keel,555 0101\n"
            "rope,3,2,6,J-17,2026-03-01,Keel,555 0101\nrope,6,2,12,J-18,2026-03-04,Lund,\n"
        },
    ),
    "forms with a title and a last line each, and labels with colons": Case(
        "Mole Quay,,\nDock: North,Keeper:,Quill\nBerth,Boat,Keeper\nA1,Teal,Bo\nA2,Smew,Ann\nMind the tide,,\n,,\n"
        "Mole Quay,,\nDock: South,Keeper:,Marsh\nBerth,Boat,Keeper\nB1,Knot,Bo\nTotal:,1,\nMind the tide,,\n",
        {
            "": "Berth,Boat,Keeper,Dock,Keeper Above\nA1,Teal,Bo,North,Quill\nA2,Smew,Ann,North,Quill\n"
            "B1,Knot,Bo,South,Marsh\n"
        },
    ),
    "the header again and again under a line": Case(
        "North Dock,,\nBerth,Boat,Length\nA1,Teal,8.2\nA2,Smew,9.1\nSouth Dock,,\nBerth,Boat,Length\nB1,Knot,7.4\n",
        {"": "Berth,Boat,Length,Dock\nA1,Teal,8.2,North Dock\nA2,Smew,9.1,North Dock\nB1,Knot,7.4,South Dock\n"},
    ),
    "forms without lines": Case(
        "Boat,Teal\nReg,M-1\nLength,7.5\n,\nBoat,Smew\nReg,M-2\nLength,8.2\n,\nBoat,Knot\nReg,M-3\nLength,9.1\n",
        {"": "Boat,Reg,Length\nTeal,M-1,7.5\nSmew,M-2,8.2\nKnot,M-3,9.1\n"},
    ),
    "cards, of which some say more": Case(
        "Cards of the yard,\nName:,Ann\nPhone:,555 0101\n,\nName:,Bo\nPhone:,\nBoat:,Teal\n,\nPhone:,555 0102\n,\n"
        "Name:,Cas\nBoat:,Smew\n",
        {"": "Name,Phone,Boat\nAnn,555 0101,\nBo,,Teal\n,555 0102,\nCas,,Smew\n"},
    ),
    "a table with its header again and values of two sorts": Case(
        "Boat,Known\nTeal,7.5\nSmew,sloop\nBoat,Known\nTeal,7.9\nSmew,ketch\n",
        {"": "Boat,Known\nTeal,7.5\nSmew,sloop\nTeal,7.9\nSmew,ketch\n"},
    ),
    "one form of a job": Case(
        "Job No,J-17,\nOwner,Keel,\n,,\nPart,Qty,Price\ncleat,4,2.5\nrope,3,2\n",
        {"": "Part,Qty,Price,Job No,Owner\ncleat,4,2.5,J-17,Keel\nrope,3,2,J-17,Keel\n"},
    ),
    "one form with one line": Case(
        "Job No,J-17,\nOwner,Keel,\n,,\nPart,Qty,Fee\ncleat,4,10\nSubtotal,,10\nTax 10 %,,1\nTotal,,11\n",
        {"": "Part,Qty,Fee,Job No,Owner\ncleat,4,10,J-17,Keel\n"},
    ),
    "labels that may speak of the list only": Case(
        "Season:,2026,\nPrinted:,2026-03-01,\nBoat,Owner,Length\nTeal,Keel,8.2\nSmew,Lund,9.1\n",
        {"": "Boat,Owner,Length\nTeal,Keel,8.2\nSmew,Lund,9.1\n"},
    ),
    "a small table above a wider one": Case(
        "Trade,Rate,\nRigger,45,\nPainter,38,\n,,\nJob,Boat,Trade\n1,Teal,Rigger\n2,Smew,Painter\n3,Knot,Rigger\n",
        {
            "": "Trade,Rate\nRigger,45\nPainter,38\n",
            "table 2": "Job,Boat,Trade\n1,Teal,Rigger\n2,Smew,Painter\n3,Knot,Rigger\n",
        },
    ),
    "a header with colons": Case(
        "Name:,Phone:,Boat:\nAnn,555 0101,Teal\nBo,555 0102,Smew\n",
        {"": "Name:,Phone:,Boat:\nAnn,555 0101,Teal\nBo,555 0102,Smew\n"},
    ),
    "names of seasons over what is said of each": Case(
        ",,Spring,,Autumn,,\nBoat,Owner,Day,Fee,Day,Fee,Notes\nTeal,Keel,2026-03-01,120,2026-10-02,95,\n"
        "Smew,Lund,2026-03-04,110,,,late\n",
        {
            "": "Boat,Owner,Notes\nTeal,Keel,\nSmew,Lund,late\n",
            "Day by Season": "Boat,Day,Fee,Season\nTeal,2026-03-01,120,Spring\nTeal,2026-10-02,95,Autumn\n"
            "Smew,2026-03-04,110,Spring\n",
        },
    ),
    "years over what is said of each": Case(
        ",2025,,2026,\nBoat,Fee,Days,Fee,Days\nTeal,120,4,130,3\nSmew,90,2,,\n",
        {"": "Boat\nTeal\nSmew\n", "Fee by Year": "Boat,Fee,Days,Year\nTeal,120,4,2025\nTeal,130,3,2026\nSmew,90,2,2025\n"},
    ),
    "months in brackets, and hours with a unit": Case(
        "Boat,Hours (Jan),Hours (Feb),Hours (Mar),Tide 2024 (m),Tide 2025 (m),Tide 2026 (m)\nTeal,3,4,5,1.5,1.25,1.75\n"
        "Smew,6,7,8,2.5,2.25,2.75\n",
        {
            "": "Boat\nTeal\nSmew\n",
            "Hours by Month": "Boat,Hours,Month\nTeal,3,Jan\nTeal,4,Feb\nTeal,5,Mar\nSmew,6,Jan\nSmew,7,Feb\nSmew,8,Mar\n",
            "Tide (m) by Year": "Boat,Tide (m),Year\nTeal,1.5,2024\nTeal,1.25,2025\nTeal,1.75,2026\nSmew,2.5,2024\n"
            "Smew,2.25,2025\nSmew,2.75,2026\n",
        },
    ),
    "prices by how large": Case(
        "Rope,Maker,6mm,8 mm,10mm\nsheet,Vik,1.1,1.6,\nhalyard,Brun,1.9,2.6,3.4\n",
        {
            "": "Rope,Maker\nsheet,Vik\nhalyard,Brun\n",
            "Value by Size": "Rope,Value,Size\nsheet,1.1,6mm\nsheet,1.6,8 mm\nhalyard,1.9,6mm\nhalyard,2.6,8 mm\n"
            "halyard,3.4,10mm\n",
        },
    ),
    "columns that bear letters": Case(
        "K,L,M,N,S\nsmock,4,2,40,1\nvest,3,,20,2\n",
        {"": "K,L,M,N,S\nsmock,4,2,40,1\nvest,3,,20,2\n"},
    ),
    "how many of each size, and what they cost": Case(
        "Coat,Stock S,Stock M,Price S,Price M,Mast m,Mass kg\nsmock,4,2,40,45,1,2\nvest,3,,20,25,2,3\n",
        {
            "": "Coat,Mast m,Mass kg\nsmock,1,2\nvest,2,3\n",
            "Stock by Size": "Coat,Stock,Price,Size\nsmock,4,40,S\nsmock,2,45,M\nvest,3,20,S\nvest,,25,M\n",
        },
    ),
    "prices by how many": Case(
        "Part,Maker,1-9,10-49,50+\ncleat,Vik,7.5,7,6\nrope,Brun,1.2,1,0.9\n",
        {
            "": "Part,Maker\ncleat,Vik\nrope,Brun\n",
            "Value by Range": "Part,Value,Range\ncleat,7.5,1-9\ncleat,7,10-49\ncleat,6,50+\nrope,1.2,1-9\nrope,1,10-49\n"
            "rope,0.9,50+\n",
        },
    ),
    "days over who was there": Case(
        "Name,Trade,2026-03-02,2026-03-03,2026-03-04\nVik,rigger,P,A,\nBrun,joiner,P,P,P\n",
        {
            "": "Name,Trade\nVik,rigger\nBrun,joiner\n",
            "Value by Day": "Name,Value,Day\nVik,P,2026-03-02\nVik,A,2026-03-03\nBrun,P,2026-03-02\nBrun,P,2026-03-03\n"
            "Brun,P,2026-03-04\n",
        },
    ),
    "groups within groups": Case(
        "Day,Dock,Boat,Way\n2026-05-01,North,Smew,out\n,,Knot,in\n,South,Teal,in\n,,Smew,out\n2026-05-02,South,Teal,in\n,,Knot,out\n",
        {
            "": "Day,Dock,Boat,Way\n2026-05-01,North,Smew,out\n2026-05-01,North,Knot,in\n2026-05-01,South,Teal,in\n"
            "2026-05-01,South,Smew,out\n2026-05-02,South,Teal,in\n2026-05-02,South,Knot,out\n"
        },
    ),
    "blocks of which the last lacks a column": Case(
        "Job,Part 1,Qty 1,Part 2,Qty 2,Part 3\n1,cleat,4,rope,1,tar\n2,rope,2,,,\n",
        {"": "Job\n1\n2\n", "Part": "Job,Part,Qty,Position\n1,cleat,4,1\n1,rope,1,2\n1,tar,,3\n2,rope,2,1\n"},
    ),
    "lists and texts with commas": Case(
        'Job,Crew,Port\n1,"Ann, Ben","Ostend, Belgium"\n2,Ben,"Kiel, Germany"\n3,"Ben, Cas, Ann","Ostend, Belgium"\n4,"Cas, Ann","Ostend, Belgium"\n',
        {
            "": 'Job,Port\n1,"Ostend, Belgium"\n2,"Kiel, Germany"\n3,"Ostend, Belgium"\n4,"Ostend, Belgium"\n',
            "Crew": "Job,Crew,Position\n1,Ann,1\n1,Ben,2\n2,Ben,1\n3,Ben,1\n3,Cas,2\n3,Ann,3\n4,Cas,1\n4,Ann,2\n",
        },
    ),
    "a semicolon among commas": Case(
        'Trip,Crew\n1,"Ann, Ben"\n2,"Cas, Ben"\n3,Cas\n4,Dee; Ann\n5,"Ben, Dee"\n',
        {
            "": "Trip\n1\n2\n3\n4\n5\n",
            "Crew": "Trip,Crew,Position\n1,Ann,1\n1,Ben,2\n2,Cas,1\n2,Ben,2\n3,Cas,1\n4,Dee,1\n4,Ann,2\n5,Ben,1\n5,Dee,2\n",
        },
    ),
    "values of a list, each with a number": Case(
        'Order,Parts,Days\n1,"2x rope, 1 x mast","1 Apr, 2 Apr"\n2,1x cleat,3 Apr\n3,"3 x rope 8 mm, 1x oar","2 Apr, 1 May"\n',
        {
            "": 'Order,Days\n1,"1 Apr, 2 Apr"\n2,3 Apr\n3,"2 Apr, 1 May"\n',
            "Parts": "Order,Parts,Quantity,Position\n1,rope,2,1\n1,mast,1,2\n2,cleat,1,1\n3,rope 8 mm,3,1\n3,oar,1,2\n",
        },
    ),
    "values of a list, each with a word": Case(
        'Race,Crew,Remark\n1,"Ann (skipper), Ben (mate)","Hull: cracked, wind: west"\n2,"Cas (skipper), Ann (cook)",Rig: fine\n'
        '3,"Ben (skipper), Cas (mate)","Sail: old, crew: three"\n',
        {
            "": 'Race,Remark\n1,"Hull: cracked, wind: west"\n2,Rig: fine\n3,"Sail: old, crew: three"\n',
            "Crew": "Race,Crew,Crew Detail,Position\n1,Ann,skipper,1\n1,Ben,mate,2\n2,Cas,skipper,1\n2,Ann,cook,2\n"
            "3,Ben,skipper,1\n3,Cas,mate,2\n",
        },
    ),
    "values of a list, each with a number and a price, with a code, or with a time": Case(
        'Order,Parts,Works,Legs\n1,"2x rope @ £4.50, 1 x mast @ £70","01 - hull, 10 - rig",Sound (3:20); Fjord (4:01)\n'
        "2,1x oar (£9.00),10 - rig,Bay: 0:45\n3,\"3 x rope @ £4.50 each, 1x oar @ £9\",\"10 - rig, 01 - hull\",2:10 Quay\n"
        '4,"1 x lamp - £9.00, 1x tar - £4.50",01 - hull,Pier (1:00); Inlet (5:30)\n',
        {
            "": "Order\n1\n2\n3\n4\n",
            "Parts": "Order,Parts,Quantity,Price,Position\n1,rope,2,4.5,1\n1,mast,1,70,2\n2,oar,1,9,1\n3,rope,3,4.5,1\n"
            "3,oar,1,9,2\n4,lamp,1,9,1\n4,tar,1,4.5,2\n",
            "Works": "Order,Works,Work Code,Position\n1,hull,01,1\n1,rig,10,2\n2,rig,10,1\n3,rig,10,1\n3,hull,01,2\n4,hull,01,1\n",
            "Legs": "Order,Legs,Leg Time,Position\n1,Sound,3:20,1\n1,Fjord,4:01,2\n2,Bay,0:45,1\n3,Quay,2:10,1\n4,Pier,1:00,1\n"
            "4,Inlet,5:30,2\n",
        },
    ),
    "several under a header that says so, one of whom stands alone": Case(
        'Owner,Address,Boats Lent\nAnn Frost,Quay St 4,"Pride of the Bay, Clash of the Tides"\n'
        'Bo Crane,Dock Rd 34,"Mist of Aalvik, Teal"\nBo Crane,Pier Rd,Clash of the Tides\n',
        {
            "": "Owner,Address\nAnn Frost,Quay St 4\nBo Crane,Dock Rd 34\nBo Crane,Pier Rd\n",
            "Boats Lent": "Owner,Address,Boats Lent,Position\nAnn Frost,Quay St 4,Pride of the Bay,1\n"
            "Ann Frost,Quay St 4,Clash of the Tides,2\nBo Crane,Dock Rd 34,Mist of Aalvik,1\n"
            "Bo Crane,Dock Rd 34,Teal,2\nBo Crane,Pier Rd,Clash of the Tides,1\n",
        },
    ),
    "values of a list, each with a date, and who came in where": Case(
        "Race,1st,2nd,3rd,Log\nR1,Teal,Knot,Smew,2026-05-01: called; 2026-05-02: held\nR2,Knot,Teal,Gull,2026-05-08: called\n"
        "R3,Smew,Teal,Knot,2026-05-15: late start; 2026-05-15: held\n",
        {
            "": "Race\nR1\nR2\nR3\n",
            "Placed": "Race,Placed,Position\nR1,Teal,1\nR1,Knot,2\nR1,Smew,3\nR2,Knot,1\nR2,Teal,2\nR2,Gull,3\nR3,Smew,1\nR3,Teal,2\n"
            "R3,Knot,3\n",
            "Log": "Race,Log,Log Date,Position\nR1,called,2026-05-01,1\nR1,held,2026-05-02,2\nR2,called,2026-05-08,1\n"
            "R3,late start,2026-05-15,1\nR3,held,2026-05-15,2\n",
        },
    ),
    "values of a list, each with a word behind a colon": Case(
        'Race,Crew\n1,"Ann: skipper, Ben: mate"\n2,"Cas: skipper, Ann: mate"\n3,"Ben: skipper, Cas: mate"\n',
        {
            "": "Race\n1\n2\n3\n",
            "Crew": "Race,Crew,Crew Detail,Position\n1,Ann,skipper,1\n1,Ben,mate,2\n2,Cas,skipper,1\n2,Ann,mate,2\n"
            "3,Ben,skipper,1\n3,Cas,mate,2\n",
        },
    ),
    "guests of a talk, each with the club in brackets": Case(
        'Talk,Guests\nKnots,"Ann Berg (North), Bo Falk (South)"\nTides,Cas Aas (Quay)\n'
        'Sails,"Bo Falk (South), Dee Lund (North), Ann Berg (North)"\n',
        {
            "": "Talk\nKnots\nTides\nSails\n",
            "Guests": "Talk,Guests,Guest Detail,Position\nKnots,Ann Berg,North,1\nKnots,Bo Falk,South,2\nTides,Cas Aas,Quay,1\n"
            "Sails,Bo Falk,South,1\nSails,Dee Lund,North,2\nSails,Ann Berg,North,3\n",
        },
    ),
    "no key to hang a list on": Case(
        "Boat,Crew\nTeal,Ann;Ben\nTeal,Ann;Ben\nSmew,Ben;Cas\nTeal,Cas;Ann\n",
        {
            "": "Row No,Boat\n1,Teal\n2,Teal\n3,Smew\n4,Teal\n",
            "Crew": "Row No,Crew,Position\n1,Ann,1\n1,Ben,2\n2,Ann,1\n2,Ben,2\n3,Ben,1\n3,Cas,2\n4,Cas,1\n4,Ann,2\n",
        },
    ),
    "numbers with signs": Case(
        'Job,Cost,Saved,Share\n1,"€ 1,250.00",(40.00),7 %\n2,"€ 80.50",12.50,12 %\n3,"€ 7.00",(3.25),9 %\n',
        {"": "Job,Cost,Saved,Share\n1,1250.00,-40.00,7\n2,80.50,12.50,12\n3,7.00,-3.25,9\n"},
    ),
    "parts that the header names as it is made": Case(
        "Skipper / Phone,Boat (Reg),From - To,Home/Away,Order/Ref No,Re-Set,w/c,Set - Out,Tel/Fax,\"Mass, wet\"\n"
        "Ann Rice / 0559 111222,Teal (MQ-1),9:00 - 17:00,Vik/Tamm,2026/114,AB-1,3/4,2026-03,0555/12,\"1,250 kg\"\n"
        "Bo Lie / 0559 333444,Smew (MQ-2),8:30 - 12:00,Tamm/Vik,2026/115,AB-2,10/4,2026-04,0555/34,\"1,300 kg\"\n",
        {
            "": "Skipper,Phone,Boat,Boat Reg,From,To,Home,Away,Order/Ref No,Re-Set,w/c,Set - Out,Tel/Fax,\"Mass, wet\"\n"
            "Ann Rice,0559 111222,Teal,MQ-1,9:00,17:00,Vik,Tamm,2026/114,AB-1,3/4,2026-03,0555/12,\"1,250 kg\"\n"
            "Bo Lie,0559 333444,Smew,MQ-2,8:30,12:00,Tamm,Vik,2026/115,AB-2,10/4,2026-04,0555/34,\"1,300 kg\"\n",
        },
    ),
    "people who met twice": Case(
        "Met,Hands,Lies at\n1,\"Ann Rice, Bo Lie, Cy Moe\",\"Old Quay, New Vik, Far Oddane\"\n"
        "2,\"Bo Lie, Cy Moe, Dot Lund\",\"Old Quay, New Tamm, Far Oddane\"\n",
        {
            "": "Met,Lies at\n1,\"Old Quay, New Vik, Far Oddane\"\n2,\"Old Quay, New Tamm, Far Oddane\"\n",
            "Hands": "Met,Hands,Position\n1,Ann Rice,1\n1,Bo Lie,2\n1,Cy Moe,3\n2,Bo Lie,1\n2,Cy Moe,2\n2,Dot Lund,3\n",
        },
    ),
    "numbers of things as programs write them beside a blank": Case(
        "job_id,boat_no,hours,version_no\n1001.0,12.0,2.0,1.0\n1002.0,,3.0,2.0\n",
        {"": "job_id,boat_no,hours,version_no\n1001,12,2.0,1.0\n1002,,3.0,2.0\n"},
    ),
    "numbers of things with a point, and what one measures": Case(
        "Piece No,Key Length,No\n1987.12,1.50,2.5\n1990.10,2.5,3\n1990.1,2.50,1.50\n",
        {"": "Piece No,Key Length,No\n1987.12,1.5,2.5\n1990.10,2.5,3\n1990.1,2.5,1.5\n"},
    ),
    "a comma for the decimal mark": Case(
        'Job;Cost\n'.replace(";", ",") + '1,"1.250,75"\n2,"80,50"\n', {"": "Job,Cost\n1,1250.75\n2,80.50\n"}
    ),
    "points between thousands where other columns have decimal commas": Case(
        'Job,Pieces,Metres,Cost,Version No\n1,1.250,"1,250","80,50",1.100\n2,40,"2,500","7,00",1.200\n',
        {"": "Job,Pieces,Metres,Cost,Version No\n1,1250,1.250,80.50,1.100\n2,40,2.500,7.00,1.200\n"},
    ),
    "points between thousands of money, and of what stands beside dates with points": Case(
        "Job,Cost,Rate,Day,Pieces,Depth\n1,1.250 €,1.459 €,3.2.26,1.200,1.125\n2,980 €,1.502 €,14.2.26,35,2.250\n",
        {"": "Job,Cost,Rate,Day,Pieces,Depth\n1,1250,1.459,2026-02-03,1200,1.125\n2,980,1.502,2026-02-14,35,2.250\n"},
    ),
    "no points between thousands beside dates with points where other decimals have one": Case(
        "Job,Day,Pieces,Hours\n1,03.02.2026,1.200,2.5\n2,14.02.2026,35,3.25\n",
        {"": "Job,Day,Pieces,Hours\n1,03.02.2026,1.2,2.5\n2,14.02.2026,35,3.25\n"},
    ),
    "points between thousands of money, but not where a thousand has none": Case(
        "Job,Cost,Toll\n1,1.250 €,1.250 €\n2,980 €,1500 €\n", {"": "Job,Cost,Toll\n1,1250,1.25\n2,980,1500\n"}
    ),
    "no points between thousands where nothing says so": Case(
        "Job,Day,Pieces\n1,2026-02-03,1.200\n2,2026-02-14,35\n", {"": "Job,Day,Pieces\n1,2026-02-03,1.2\n2,2026-02-14,35\n"}
    ),
    "weights that may have points between thousands stay whole": Case(
        "Job,Load,Cargo\n1,1.200 kg,1.200 kg\n2,850 kg,850.5 kg\n3,75 kg,75 kg\n4,2.050 kg,2.050 kg\n",
        {"": "Job,Load,Cargo,Cargo Unit\n1,1.200 kg,1.2,kg\n2,850 kg,850.5,kg\n3,75 kg,75,kg\n4,2.050 kg,2.05,kg\n"},
    ),
    "no points between thousands where the decimal marks are not all commas": Case(
        'Job,Tonnes,Hours,Cost\n1,1.250,1.5,"80,50"\n2,40,2.25,"7,00"\n',
        {"": "Job,Tonnes,Hours,Cost\n1,1.25,1.5,80.50\n2,40,2.25,7.00\n"},
    ),
    "dates that could be read both ways beside others that show which comes first": Case(
        "Job,Opened,Due,Told,Left\n1,25/04/2026,03/05/2026,3/5/26,01.02.2026\n2,26/04/2026,04/05/2026,12/5/26,02.02.2026\n",
        {"": "Job,Opened,Due,Told,Left\n1,25/04/2026,2026-05-03,2026-05-03,01.02.2026\n"
         "2,26/04/2026,2026-05-04,2026-05-12,02.02.2026\n"},
    ),
    "dates that could be read both ways beside others in a form that says the year first": Case(
        "Job,Opened,Due,Told\n1,4/25/26,03/05/2026,2026-04-25\n2,4/26/26,04/05/2026,2026-04-26\n",
        {"": "Job,Opened,Due,Told\n1,2026-04-25,2026-03-05,2026-04-25\n2,2026-04-26,2026-04-05,2026-04-26\n"},
    ),
    "dates that could be read both ways where the others contradict each other": Case(
        "Job,Opened,Due,Told\n1,25/04/2026,03/05/2026,04/25/2026\n2,26/04/2026,04/05/2026,04/26/2026\n",
        {"": "Job,Opened,Due,Told\n1,25/04/2026,03/05/2026,04/25/2026\n2,26/04/2026,04/05/2026,04/26/2026\n"},
        doubt="'Due' holds dates that could be day first or month first: C2",
    ),
    "digits that are no amount": Case(
        "Job,Account,Phone,Code\n1,12345678901234567890,0555 1234,007\n2,22345678901234567890,0555 9999,012\n",
        {"": "Job,Account,Phone,Code\n1,12345678901234567890,0555 1234,007\n2,22345678901234567890,0555 9999,012\n"},
    ),
    "what a phone costs": Case(
        "Boat,Phone Cost,Phone\nTeal,\"€1,250.50\",0555 12\nSmew,€95.00,0555 13\n",
        {"": "Boat,Phone Cost,Phone\nTeal,1250.50,0555 12\nSmew,95.00,0555 13\n"},
    ),
    "dates in several ways": Case(
        "Job,Day\n1,2026-03-14\n2,15/03/2026\n3,1 Apr 2026\n4,\"April 3, 2026\"\n",
        {"": "Job,Day\n1,2026-03-14\n2,2026-03-15\n3,2026-04-01\n4,2026-04-03\n"},
    ),
    "years of two digits": Case(
        "Boat,Built,Safe to\nTeal,25/11/63,31/12/31\nSmew,1/2/04,31/12/26\nKnot,17/8/71,31/12/29\n",
        {"": "Boat,Built,Safe to\nTeal,1963-11-25,2031-12-31\nSmew,2004-02-01,2026-12-31\nKnot,1971-08-17,2029-12-31\n"},
    ),
    "dates that stay open": Case(
        "Job,Day\n1,3/4/2026\n2,5/6/2026\n", {"": "Job,Day\n1,3/4/2026\n2,5/6/2026\n"}, doubt="day first or month first"
    ),
    "a day that no calendar has": Case(
        "Job,Day,Due\n1,2026-03-14,4/3/2026\n2,2026-03-95,13/3/2026\n3,2026-03-16,31/2/2026\n",
        {"": "Job,Day,Due\n1,2026-03-14,4/3/2026\n2,2026-03-95,13/3/2026\n3,2026-03-16,31/2/2026\n"},
        doubt="'Day' is a date except in some cells, so it stays text: B3 '2026-03-95'; "
        "'Due' is a date except in some cells, so it stays text: C4 '31/2/2026'",
    ),
    "days and months that come first, and times": Case(
        "Job,Day,Due\n1,14/3/2026,1/3/2026\n2,15/3/2026,3/3/2026 9:30\n3,3/16/2026,31/3/2026\n4,3/17/2026,4/3/2026\n5,3/3/2026,5/3/2026\n",
        {
            "": "Job,Day,Due\n1,14/3/2026,1/3/2026\n2,15/3/2026,3/3/2026 9:30\n3,3/16/2026,31/3/2026\n"
            "4,3/17/2026,4/3/2026\n5,3/3/2026,5/3/2026\n"
        },
        doubt="'Day' holds dates of which some have the day first and some the month: "
        "B2 '14/3/2026', B3 '15/3/2026', B4 '3/16/2026', B5 '3/17/2026'; 'Due' holds dates of which some have a time: C3 '3/3/2026 9:30'",
    ),
    "a letter among digits": Case("Job,Grade\n1,2\n2,X\n3,1\n4,X\n", {"": "Job,Grade\n1,2\n2,X\n3,1\n4,X\n"}),
    "a letter among numbers": Case("Job,Hours\n1,12\n2,X\n3,1\n4,X\n", {"": "Job,Hours\n1,12\n2,\n3,1\n4,\n"}),
    "words for a blank": Case(
        "Job,Hours,Damage,Country\n1,2.5,none,NA\n2,n/a,dent,DE\n3,-,n/a,NL\n4,3.5,scratch,NA\n",
        {"": "Job,Hours,Damage,Country\n1,2.5,none,NA\n2,,dent,DE\n3,,,NL\n4,3.5,scratch,NA\n"},
        doubt="may stand for a blank",
    ),
    "code and description": Case(
        "Job,Part\n1,B12 – Brass cleat\n2,R07 – Rope\n3,B12 – Brass cleat\n4,S01 - Shackle\n",
        {"": "Job,Part Code,Part\n1,B12,Brass cleat\n2,R07,Rope\n3,B12,Brass cleat\n4,S01,Shackle\n"},
    ),
    "description and code, name and mail": Case(
        "Job,Boat,Contact\n1,Teal (M-1),Ann Lund <ann@yard.example>\n2,Smew (M-2),Bo (bo@yard.example)\n"
        "3,Teal (M-1),Cas Holm <cas@yard.example>\n4,Knot (M-3),Bo (bo@yard.example)\n",
        {
            "": "Job,Boat,Boat Code,Contact,Contact Email\n1,Teal,M-1,Ann Lund,ann@yard.example\n2,Smew,M-2,Bo,bo@yard.example\n"
            "3,Teal,M-1,Cas Holm,cas@yard.example\n4,Knot,M-3,Bo,bo@yard.example\n"
        },
    ),
    "sizes are no numbers of things, and days no telephones": Case(
        'Job,Sizes,Signed\n1,"2x4, 2x6",Ann 12/03/2026\n2,2x4,Bo 13/03/2026\n3,"2x6, 1x4",Cas 14/03/2026\n',
        {
            "": "Job,Signed\n1,Ann 12/03/2026\n2,Bo 13/03/2026\n3,Cas 14/03/2026\n",
            "Sizes": "Job,Sizes,Position\n1,2x4,1\n1,2x6,2\n2,2x4,1\n3,2x6,1\n3,1x4,2\n",
        },
    ),
    "a year in brackets is no code": Case(
        "Race,Boat\nSpring Cup (2024),Teal\nRound Tor (2024),Smew\nSpring Cup (2025),Teal\n",
        {"": "Race,Boat\nSpring Cup (2024),Teal\nRound Tor (2024),Smew\nSpring Cup (2025),Teal\n"},
    ),
    "numbers with marks, names with phones, details that may be names": Case(
        'Job,Length,Contact,Boat\n1,7.5*,"Ann Lund, 555-0101",Teal (sloop)\n2,8.2,Bo Keel (+44 555 0102),Smew (ketch)\n'
        "3,9.1†,Cas Holm 555 0199,Knot (sloop)\n",
        {
            "": "Job,Length,Length Mark,Contact,Contact Phone,Boat\n1,7.5,*,Ann Lund,555-0101,Teal (sloop)\n"
            "2,8.2,,Bo Keel,+44 555 0102,Smew (ketch)\n3,9.1,†,Cas Holm,555 0199,Knot (sloop)\n"
        },
    ),
    "units in a row below the header": Case(
        "Boats\nReg,Boat,Length,Weight\n,,(m),[kg]\nM-1,Teal,7.5,1200\nM-2,Smew,8.2,1500\n",
        {"": "Reg,Boat,Length (m),Weight [kg]\nM-1,Teal,7.5,1200\nM-2,Smew,8.2,1500\n"},
    ),
    "number and unit": Case(
        "Boat,Length\nTeal,7.5 m\nSmew,9 m\nKnot,12 m\n",
        {"": "Boat,Length,Length Unit\nTeal,7.5,m\nSmew,9,m\nKnot,12,m\n"},
    ),
    "firms are no persons": Case(
        "Job,Full Customer Name,Full Name\n1,Saltby Marine,Ann Marsh\n2,Wick Chandlers,Ben Falk\n3,Cas Holm,.\n4,Tarn Yachts,Di Bank\n",
        {
            "": "Job,Full Customer Name,First Name,Last Name\n1,Saltby Marine,Ann,Marsh\n2,Wick Chandlers,Ben,Falk\n"
            "3,Cas Holm,,\n4,Tarn Yachts,Di,Bank\n"
        },
    ),
    "last name first": Case(
        'Job,Owner\n1,"Keel, Oskar"\n2,"van Lund, Pia"\n3,"Holm, Tilde"\n',
        {"": "Job,Owner Last Name,Owner First Name\n1,Keel,Oskar\n2,van Lund,Pia\n3,Holm,Tilde\n"},
    ),
    "from and to": Case(
        "Job,Stay\n1,2026-03-01 - 2026-03-09\n2,2026-04-02 - 2026-04-03\n3,2026-05-01 - 2026-05-30\n",
        {"": "Job,Stay From,Stay To\n1,2026-03-01,2026-03-09\n2,2026-04-02,2026-04-03\n3,2026-05-01,2026-05-30\n"},
    ),
    "pasted twice": Case("Job,Boat,Hours\n1,Teal,2\n2,Smew,3\n3,Knot,4\n4,Teal,1\n2,Smew,3\n3,Knot,4\n", {"": LINES}),
    "equal measurements": Case("Draught,Beam\n12,3\n15,4\n12,3\n", {"": "Draught,Beam\n12,3\n15,4\n12,3\n"}),
    "equal depths": Case("Depth,Bed\n12,mud\n15,sand\n12,mud\n", {"": "Depth,Bed\n12,mud\n15,sand\n12,mud\n"}),
    "equal events": Case("Boat,Event\nTeal,wash\nSmew,fuel\nTeal,wash\n", {"": "Boat,Event\nTeal,wash\nSmew,fuel\nTeal,wash\n"}),
    "ditto marks": Case(
        'Berth,Owner,Dock\nA1,"""",East\nA2,Marsh,ditto\nA3,"""",\nA4,do.,ditto\n',
        {"": 'Berth,Owner,Dock\nA1,"""",East\nA2,Marsh,East\nA3,Marsh,\nA4,Marsh,ditto\n'},
    ),
    "a boat called Ditto": Case(
        "Boat\n" + "".join(f"Teal {number}\n" for number in range(100)) + "Ditto\n",
        {"": "Boat\n" + "".join(f"Teal {number}\n" for number in range(100)) + "Ditto\n"},
        doubt="may be a value or mean what stands above",
    ),
    "weeks side by side": Case(
        "Boat,Hours Week 1,Hours Week 2,Hours Week 3\nTeal,3,,4\nKnot,,1,2\n",
        {"": "Boat\nTeal\nKnot\n", "Hours by Week": "Boat,Hours,Week\nTeal,3,1\nTeal,4,3\nKnot,1,2\nKnot,2,3\n"},
    ),
    "what is said of each of several kinds": Case(
        "Boat,Hull Grade,Hull Days,Rig Grade,Rig Days,Keel Grade,Keel Days\nTeal,A,3,B,1,A,2\nKnot,B,2,A,4,,\n",
        {
            "": "Boat\nTeal\nKnot\n",
            "Grade": "Boat,Grade,Days,Kind\nTeal,A,3,Hull\nTeal,B,1,Rig\nTeal,A,2,Keel\nKnot,B,2,Hull\nKnot,A,4,Rig\n",
        },
    ),
    "what several kinds count and cost": Case(
        "Trip,Adult Seats,Adult Price,Child Seats,Child Price,Crew Seats,Crew Price\n1,9,5,3,2.5,1,0\n2,8,6,4,3,2,0\n",
        {
            "": "Trip\n1\n2\n",
            "Seats": "Trip,Seats,Price,Kind\n1,9,5,Adult\n1,3,2.5,Child\n1,1,0,Crew\n2,8,6,Adult\n2,4,3,Child\n2,2,0,Crew\n",
        },
    ),
    "names and towns of several persons are no kinds": Case(
        "Job,Owner Name,Owner Town,Rigger Name,Rigger Town,Driver Name,Driver Town\n1,Ann,Looe,Bo,Looe,Ann,Looe\n"
        "2,Bo,Looe,Bo,Looe,Bo,Looe\n",
        {
            "": "Job,Owner Name,Owner Town,Rigger Name,Rigger Town,Driver Name,Driver Town\n1,Ann,Looe,Bo,Looe,Ann,Looe\n"
            "2,Bo,Looe,Bo,Looe,Bo,Looe\n"
        },
    ),
    "when each of several works began and ended is no count": Case(
        "Boat,Hull Start,Hull End,Rig Start,Rig End,Keel Start,Keel End\n"
        "Teal,2026-01-02,2026-01-05,2026-02-02,2026-02-05,2026-03-02,2026-03-05\n",
        {
            "": "Boat,Hull Start,Hull End,Rig Start,Rig End,Keel Start,Keel End\n"
            "Teal,2026-01-02,2026-01-05,2026-02-02,2026-02-05,2026-03-02,2026-03-05\n"
        },
    ),
    "a plan and a sum beside what was done are no kinds": Case(
        "Dock,Planned Days,Planned Cost,Actual Days,Actual Cost,Total Days,Total Cost\nN,1,2,3,4,4,6\nS,2,2,3,5,5,7\n",
        {"": "Dock,Planned Days,Planned Cost,Actual Days,Actual Cost,Total Days,Total Cost\nN,1,2,3,4,4,6\nS,2,2,3,5,5,7\n"},
    ),
    "items on delivery notes": Case(
        "Delivery Note,Day,Driver,Item 1,Qty 1,Item 2,Qty 2\nDN-31,2026-03-02,Gus,cleat,2,rope,4\n"
        "DN-32,2026-03-02,Gus,rope,1,,\n",
        {
            "": "Delivery Note,Day,Driver\nDN-31,2026-03-02,Gus\nDN-32,2026-03-02,Gus\n",
            "Item": "Delivery Note,Item,Qty,Position\nDN-31,cleat,2,1\nDN-31,rope,4,2\nDN-32,rope,1,1\n",
        },
    ),
    "lists whose values begin with a small letter elsewhere": Case(
        "Boat,Material\nTeal,Oak; brass\nKnot,Brass; glass\nSmew,Oak\nRuff,Glass\n",
        {
            "": "Boat\nTeal\nKnot\nSmew\nRuff\n",
            "Material": "Boat,Material,Position\nTeal,Oak,1\nTeal,brass,2\nKnot,Brass,1\nKnot,glass,2\nSmew,Oak,1\n"
            "Ruff,Glass,1\n",
        },
    ),
    "days of persons and tasks, of which no week has one twice so far": Case(
        "Week,Rigger,Boat,Task,Mon,Tue,Wed\n2026-03-08,Ana,Teal,Hull,4,,1\n2026-03-08,Ana,Knot,Keel,4,4,8\n"
        "2026-03-08,Bo,Teal,Rig,8,8,8\n2026-03-15,Ana,Teal,Hull,8,8,8\n2026-03-15,Bo,Knot,Rig,,,8\n",
        {
            "": "Row No,Week,Rigger,Boat,Task\n1,2026-03-08,Ana,Teal,Hull\n2,2026-03-08,Ana,Knot,Keel\n"
            "3,2026-03-08,Bo,Teal,Rig\n4,2026-03-15,Ana,Teal,Hull\n5,2026-03-15,Bo,Knot,Rig\n",
            "Value by Day": "Row No,Value,Day\n1,4,Mon\n1,1,Wed\n2,4,Mon\n2,4,Tue\n2,8,Wed\n3,8,Mon\n3,8,Tue\n3,8,Wed\n"
            "4,8,Mon\n4,8,Tue\n4,8,Wed\n5,8,Wed\n",
        },
    ),
    "questions are no quarters": Case(
        "Answer,Day,Q1,Q2,Q3,Q4 Comment\n1,2026-02-01,4,5,3,fine\n2,2026-02-01,3,4,4,\n3,2026-02-02,5,5,5,soon\n",
        {"": "Answer,Day,Q1,Q2,Q3,Q4 Comment\n1,2026-02-01,4,5,3,fine\n2,2026-02-01,3,4,4,\n3,2026-02-02,5,5,5,soon\n"},
    ),
    "tags of persons, of whom each has a phone": Case(
        "Person,Yard,Phone,Tags\nAnn,North,55-1,\"crew, mate\"\nAnn,South,55-2,mate\nBo,North,55-3,\"mate, crew\"\n",
        {
            "": "Person,Yard,Phone\nAnn,North,55-1\nAnn,South,55-2\nBo,North,55-3\n",
            "Tags": "Person,Yard,Tags,Position\nAnn,North,crew,1\nAnn,North,mate,2\nAnn,South,mate,1\nBo,North,mate,1\n"
            "Bo,North,crew,2\n",
        },
    ),
    "a first row that may be data": Case(
        "Teal,9,Marsh\nKnot,11,Keel\nSmew,8,Marsh\n",
        {"": "Teal,9,Marsh\nKnot,11,Keel\nSmew,8,Marsh\n"},
        doubt="row 1 is taken for the header, and may be a row of data",
    ),
    "a slip that the row gives away": Case(
        "Job,Reg,Boat\n1,M1,Kittiwake\n2,M1,Kittiwake\n3,M1,Kittwiake\n4,M2,Dunlin\n5,M1,Kittiwake\n6,M1,Kittiwake\n",
        {"": "Job,Reg,Boat\n1,M1,Kittiwake\n2,M1,Kittiwake\n3,M1,Kittiwake\n4,M2,Dunlin\n5,M1,Kittiwake\n6,M1,Kittiwake\n"},
    ),
}  # fmt: skip

#: Sheets with numbers in their headers that run through no list: they stay as they are.
NUMBERED = {
    "one length in two units": "Boat,Length,Length 2\nTeal,6.2,20\nSmew,5.5,18\nKnot,7.1,23\nGull,,\n",
    "two lengths in two units": "Boat,Length,Beam,Length 2,Beam 2\nTeal,6.2,2.1,20,7\nSmew,5.5,2.0,18,6\nKnot,7.1,2.4,23,8\n",
    "a coarser class": "Boat,Rig,Rig 2\nTeal,sloop,sloop\nSmew,gaff cutter,cutter\nKnot,cutter,cutter\nGull,ketch,ketch\n",
    "one choice of three": "Boat,Hull 1,Hull 2,Hull 3\nTeal,1,0,0\nSmew,0,1,0\nKnot,0,0,1\nGull,0,1,0\n",
    "items of a form": "Boat,A1,A2,A3,B1,B2,B3\nTeal,1,2,3,4,5,1\nSmew,3,2,1,5,4,2\nKnot,2,3,1,1,2,5\n",
    "names by a program": "Boat,Column1,Column2,Column3\nTeal,oak,elm,oak\nSmew,elm,oak,\nKnot,oak,elm,elm\n",
    "steps between": "Boat,h0,h0.5,h1,h2\nTeal,4,3,2,1\nSmew,3,4,1,2\nKnot,2,2,4,4\n",
}  # fmt: skip
#: And such as do run through one, with the headers of the sheets that they become.
LISTED = {
    "owners": (
        "Boat,Owner,Owner 2\nTeal,Ada Falk,Eva Holm\nSmew,Eva Holm,Ben Lund\nKnot,Ben Lund,Ada Falk\n",
        [["Boat"], ["Boat", "Owner", "Position"]],
    ),
    "rounds of a race": (
        "Boat,R1,R2,R3\nTeal,1,2,1\nSmew,2,1,3\nKnot,3,3,2\n",
        [["Boat"], ["Boat", "R", "Position"]],
    ),
    "notes on few of the parts": (
        "Job,Part 1,Part 2,Part 3,Part 4,Part 5,Note 1,Note 2\n1,cleat,rope,oar,,,old,new\n2,rope,cleat,oar,hook,bung,new,\n",
        [["Job"], ["Job", "Part", "Position"], ["Job", "Note", "Position"]],
    ),
    "more than a hundred readings": (
        "Log," + ",".join(f"Depth {n}" for n in range(1, 103)) + "\n" + f"a{',3,4' * 51}\nb{',4,3' * 51}\n",
        [["Log"], ["Log", "Depth", "Position"]],
    ),
}  # fmt: skip


@pytest.mark.parametrize("name", NUMBERED)
def test_numbers_in_headers_alone_make_no_list(name: str) -> None:
    [sheet] = shape(grid(NUMBERED[name], ()))
    assert not sheet.children
    assert ",".join(sheet.relation.names) == NUMBERED[name].split("\n")[0]


@pytest.mark.parametrize("name", LISTED)
def test_columns_that_list_one_thing_become_rows(name: str) -> None:
    text, expected = LISTED[name]
    [sheet] = shape(grid(text, ()))
    assert [list(one.names) for one in (sheet.relation, *dict(sheet.children).values())] == expected


@pytest.mark.parametrize("name", CASES)
def test_a_sheet_becomes_its_relations(name: str) -> None:
    case = CASES[name]
    found = shape(grid(case.sheet, case.merged))
    relations = {f"table {place}" if place > 1 else "": one.relation for place, one in enumerate(found, 1)}
    relations |= {part: child for one in found for part, child in one.children}
    expected = {part: list(csv.reader(io.StringIO(text))) for part, text in case.truth.items()}
    assert {part: [list(relation.names), *shown(relation)] for part, relation in relations.items()} == expected
    said = [f"{doubt.what}: {', '.join(doubt.places)}" for one in found for doubt in one.relation.doubts]
    wanted = case.doubt.split("; ") if case.doubt else []
    assert len(said) == len(wanted) and case.doubt in "; ".join(said), said
