export const MORE: {name:string,text:string,byHand:number,most:number,why:string}[] = [];
